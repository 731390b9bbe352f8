import { Button } from 'antd'
import { useState } from 'react'

import type { Panel } from '../../api/schema.gen'
import { NumberField, TextField } from '../../shared/fields'
import { rowKey, without } from '../../shared/rows'

const POLE = /^[1-9]\d?[AB]?$/

/** Volts between the terminals of two spaces: none on one leg, the supply's on two. */
export function VoltsForm({ panel, busy, set }: { panel: Panel; busy: boolean; set: (panel: Panel) => void }) {
  const [a, setA] = useState('')
  const [b, setB] = useState('')
  const [volts, setVolts] = useState<number | null>(null)
  const read = panel.read ?? []
  const ready = POLE.test(a.trim()) && POLE.test(b.trim()) && volts !== null
  return (
    <form
      className="add-form"
      onSubmit={(event) => {
        event.preventDefault()
        if (!ready) return
        set({ ...panel, read: [...read, { a: a.trim(), b: b.trim(), volts }] })
        setA('')
        setB('')
        setVolts(null)
      }}
    >
      <ul>
        {read.map((one, i) => (
          <li key={rowKey(one)}>
            {one.a} to {one.b}: <span className="num">{one.volts} V</span>{' '}
            <Button type="link" disabled={busy} aria-label={`Remove: ${one.a} to ${one.b}`} onClick={() => set({ ...panel, read: without(read, i) })}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <TextField label="From space" value={a} set={setA} placeholder="12" most={3} />
      <TextField label="To space" value={b} set={setB} placeholder="14" most={3} />
      <NumberField label="Meter shows" unit="V" value={volts} set={setVolts} />
      <Button htmlType="submit" disabled={busy || !ready}>
        Note the volts
      </Button>
      <p className="caution">Live work in the panel: only if licensed. With the cover on and each breaker’s own circuit reached elsewhere, read there.</p>
    </form>
  )
}

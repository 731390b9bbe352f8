import { Button, Select } from 'antd'
import { useState } from 'react'

import type { Circuit, Part, PartKind, StripRow } from '../../api/schema.gen'
import { NumberField, PickField, TextField } from '../../shared/fields'
import { type Edit, formOf, GAUGES, METALS, newPart, type PartForm, partFrom } from './parts'

type Props = {
  row: StripRow
  part: Part
  circuit: Circuit
  kinds: PartKind[]
  isOpen: boolean
  toggle: () => void
  busy: boolean
  change: (edit: Edit) => void
}

/** One part: its name and size, and when touched the ways to change it. */
export function PartRow({ row, part, circuit, kinds, isOpen, toggle, busy, change }: Props) {
  const lanes = Object.keys(row.points).length ? Object.keys(row.points) : Object.keys(row.comes_from)
  return (
    <div className={`part-row ${isOpen ? 'is-open' : ''}`}>
      <button type="button" className="part-head" aria-expanded={isOpen} onClick={toggle}>
        <span className="part-lanes num">{lanes.filter((lane) => lane !== 'G').join(' ')}</span>
        <span>
          <strong>{row.name}</strong>
          <span className="quiet"> {[row.device, row.detail].filter(Boolean).join(' · ')}</span>
        </span>
      </button>
      {isOpen ? <PartEditor {...{ row, part, circuit, kinds, busy, change }} /> : null}
    </div>
  )
}

function PartEditor({ row, part, circuit, kinds, busy, change }: Omit<Props, 'isOpen' | 'toggle'>) {
  const [form, setForm] = useState<PartForm>(formOf(part))
  const [kind, setKind] = useState<string | null>(null)
  const set = (more: Partial<PartForm>) => setForm({ ...form, ...more })
  const chosen = kinds.find((one) => one.kind === kind)
  const isSource = row.role === 'source'
  return (
    <div className="part-editor">
      <form
        onSubmit={(event) => {
          event.preventDefault()
          change({ do: 'change', part: partFrom(part, form) })
        }}
      >
        <div className="part-fields">
          <TextField label="Name" value={form.name} set={(name) => set({ name })} />
          {part.conductor ? (
            <>
              <PickField label="Size" value={form.size_awg ?? part.conductor.size_awg} options={GAUGES} set={(size_awg) => set({ size_awg })} />
              <PickField label="Metal" value={form.metal ?? 'copper'} options={METALS} set={(metal) => set({ metal })} />
              <NumberField label="Length, one way" unit="ft" value={form.length_ft} set={(length_ft) => set({ length_ft: length_ft ?? undefined })} />
            </>
          ) : null}
          {part.load ? (
            <>
              <NumberField label="Nameplate volts" unit="V" value={form.volts} set={(volts) => set({ volts: volts ?? undefined })} />
              <NumberField label="Nameplate amps" unit="A" value={form.amps} set={(amps) => set({ amps: amps ?? undefined })} />
              <NumberField label="Power factor" unit="" value={form.power_factor} set={(power_factor) => set({ power_factor: power_factor ?? undefined })} />
            </>
          ) : null}
          {part.capacitance_uf ? <NumberField label="Capacitance" unit="µF" value={form.capacitance_uf} set={(capacitance_uf) => set({ capacitance_uf: capacitance_uf ?? undefined })} /> : null}
          {part.rating_amps || row.switch ? <NumberField label="Rating" unit="A" value={form.rating_amps} set={(rating_amps) => set({ rating_amps: rating_amps ?? undefined })} /> : null}
        </div>
        <div className="part-actions">
          <Button type="primary" htmlType="submit" disabled={busy}>
            Change
          </Button>
          {isSource ? null : (
            <Button disabled={busy} onClick={() => change({ do: 'remove', part: part.id })}>
              Take it out
            </Button>
          )}
        </div>
      </form>
      {row.role === 'shunt' ? null : (
        <div className="part-insert">
          <Select
            aria-label="Kind of part to put in"
            placeholder="Put a part in behind it …"
            showSearch={{ optionFilterProp: 'label' }}
            value={kind}
            options={kinds.filter((one) => one.needs !== 'plate' && one.kind !== 'capacitor').map((one) => ({ value: one.kind, label: one.label }))}
            onChange={setKind}
          />
          <Button disabled={!chosen || busy} onClick={() => chosen && change({ do: 'insert', behind: part.id, ...newPart(circuit, part, chosen) })}>
            Put in
          </Button>
        </div>
      )}
    </div>
  )
}

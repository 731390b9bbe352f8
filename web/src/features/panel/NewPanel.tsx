import { useQuery } from '@tanstack/react-query'
import { Button } from 'antd'
import { useState } from 'react'

import { systems as systemsQuery } from '../../api/queries'
import type { Panel } from '../../api/schema.gen'
import { idFrom } from '../../entities/siteMap/idFrom'
import { PickField, TextField } from '../../shared/fields'
import { Failed, Loading } from '../../shared/states'

const SPACES = [4, 6, 8, 12, 16, 20, 24, 30, 32, 40, 42, 48, 54, 60, 84].map((count) => [count, `${count} spaces`] as const)

/** A panel to begin with: its supply, its spaces, how they are counted and on which leg the top row is. */
export function NewPanel({ taken, busy, add }: { taken: readonly string[]; busy: boolean; add: (panel: Panel) => void }) {
  const { data, error, refetch } = useQuery(systemsQuery)
  const [name, setName] = useState(taken.length ? 'Sub-panel' : 'Main panel')
  const [system, setSystem] = useState('split_phase_120_240')
  const [spaces, setSpaces] = useState(40)
  const [counted, setCounted] = useState<'across' | 'down'>('across')
  const [first, setFirst] = useState('L1')
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="supply systems" />
  return (
    <form
      className="add-form"
      aria-label="New panel"
      onSubmit={(event) => {
        event.preventDefault()
        add({ id: idFrom('panel', taken), name: name.trim(), system, spaces, down_one_side: counted === 'down', first_leg: first, read: [] })
      }}
    >
      <TextField label="Panel" value={name} set={setName} />
      <PickField label="Supply" value={system} options={data.map((one) => [one.key, one.label] as const)} set={setSystem} />
      <PickField label="Spaces" value={spaces} options={SPACES} set={setSpaces} />
      <PickField
        label="Counted"
        value={counted}
        options={[
          ['across', 'odd left, even right'],
          ['down', 'down one side, then the other'],
        ]}
        set={setCounted}
      />
      <PickField
        label="Top row is on"
        value={first}
        options={[
          ['L1', 'L1'],
          ['L2', 'L2'],
          ['L3', 'L3'],
        ]}
        set={setFirst}
      />
      <Button type="primary" htmlType="submit" disabled={busy || !name.trim()}>
        Draw the panel
      </Button>
    </form>
  )
}

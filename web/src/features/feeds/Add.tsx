import { Button } from 'antd'
import { type ReactNode, useState } from 'react'

import type { End, SwitchOnSite, Unit } from '../../api/schema.gen'
import { idFrom } from '../../entities/siteMap/idFrom'
import { PickField, TextField } from '../../shared/fields'

type Kind = SwitchOnSite['kind']

const KINDS: [Kind, string][] = [
  ['breaker', 'breaker'],
  ['disconnect', 'disconnect'],
  ['thermostat', 'thermostat'],
]

function AddForm({ ready, busy, submit, label, children }: { ready: boolean; busy: boolean; submit: () => void; label: string; children: ReactNode }) {
  return (
    <form
      className="add-form"
      onSubmit={(event) => {
        event.preventDefault()
        if (ready) submit()
      }}
    >
      {children}
      <Button htmlType="submit" disabled={!ready || busy}>
        {label}
      </Button>
    </form>
  )
}

export function AddSwitch({ taken, busy, add }: { taken: readonly string[]; busy: boolean; add: (one: SwitchOnSite) => void }) {
  const [name, setName] = useState('')
  const [label, setLabel] = useState('')
  const [kind, setKind] = useState<Kind>('breaker')
  const submit = () => {
    add({ id: idFrom(kind, taken), kind, name: name.trim(), label: label.trim(), poles: [] })
    setName('')
    setLabel('')
  }
  return (
    <AddForm ready={name.trim() !== ''} busy={busy} submit={submit} label="Add the switch">
      <PickField label="Kind" value={kind} options={KINDS} set={setKind} />
      <TextField label="Name" value={name} set={setName} placeholder="Breaker 14" />
      <TextField label="Its label says" value={label} set={setLabel} />
    </AddForm>
  )
}

export function AddUnit({ taken, busy, add }: { taken: readonly string[]; busy: boolean; add: (one: Unit) => void }) {
  const [name, setName] = useState('')
  const submit = () => {
    add({ id: idFrom('unit', taken), name: name.trim() })
    setName('')
  }
  return (
    <AddForm ready={name.trim() !== ''} busy={busy} submit={submit} label="Add the equipment">
      <TextField label="Name" value={name} set={setName} placeholder="Air handler, attic" />
    </AddForm>
  )
}

export function AddEnd({ units, busy, add }: { units: readonly Unit[]; busy: boolean; add: (one: End) => void }) {
  const [unit, setUnit] = useState(units[0]?.id ?? '')
  const [source, setSource] = useState('')
  const [there, setThere] = useState('')
  const submit = () => {
    add({ unit, at_source: source.trim(), at_unit: there.trim() })
    setSource('')
    setThere('')
  }
  return (
    <AddForm ready={source.trim() !== '' && there.trim() !== ''} busy={busy} submit={submit} label="Add the ends">
      <PickField label="Wires of" value={unit} options={units.map((one) => [one.id, one.name] as const)} set={setUnit} />
      <TextField label="At the source" value={source} set={setSource} placeholder="aluminum, black" />
      <TextField label="At the unit" value={there} set={setThere} placeholder="copper, red" />
    </AddForm>
  )
}

import { type ReactNode, useState } from 'react'

import type { End, SwitchOnSite, Unit } from '../../api/schema.gen'

type Kind = SwitchOnSite['kind']

/** An id that nothing else has, told apart by a number. */
function idFrom(prefix: string, taken: readonly string[]): string {
  let number = taken.length + 1
  while (taken.includes(`${prefix}_${number}`)) number += 1
  return `${prefix}_${number}`
}

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
      <button type="submit" className="plain-button" disabled={!ready || busy}>
        {label}
      </button>
    </form>
  )
}

function Text({ label, value, change, placeholder = '' }: { label: string; value: string; change: (text: string) => void; placeholder?: string }) {
  return (
    <label>
      {label}
      <input value={value} maxLength={60} placeholder={placeholder} onChange={(event) => change(event.target.value)} />
    </label>
  )
}

export function AddSwitch({ taken, busy, add }: { taken: readonly string[]; busy: boolean; add: (one: SwitchOnSite) => void }) {
  const [name, setName] = useState('')
  const [label, setLabel] = useState('')
  const [kind, setKind] = useState<Kind>('breaker')
  const submit = () => {
    add({ id: idFrom(kind, taken), kind, name: name.trim(), label: label.trim() })
    setName('')
    setLabel('')
  }
  return (
    <AddForm ready={name.trim() !== ''} busy={busy} submit={submit} label="Add the switch">
      <label>
        Kind
        <select value={kind} onChange={(event) => setKind(event.target.value as Kind)}>
          <option value="breaker">breaker</option>
          <option value="disconnect">disconnect</option>
          <option value="thermostat">thermostat</option>
        </select>
      </label>
      <Text label="Name" value={name} change={setName} placeholder="Breaker 14" />
      <Text label="Its label says" value={label} change={setLabel} />
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
      <Text label="Name" value={name} change={setName} placeholder="Air handler, attic" />
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
      <label>
        Wires of
        <select value={unit} onChange={(event) => setUnit(event.target.value)}>
          {units.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <Text label="At the source" value={source} change={setSource} placeholder="aluminum, black" />
      <Text label="At the unit" value={there} change={setThere} placeholder="copper, red" />
    </AddForm>
  )
}

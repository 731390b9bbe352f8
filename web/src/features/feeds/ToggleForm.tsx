import { Button, Radio } from 'antd'
import { useState } from 'react'

import type { Feeds, Toggle } from '../../api/schema.gen'
import { PickField } from '../../shared/fields'

type Result = Toggle['results'][string]
type Props = { feeds: Feeds; first: string; busy: boolean; add: (toggle: Toggle) => void }

const RESULTS: Result[] = ['died', 'partly', 'stayed']

/** One switch turned off, and what became of each piece of equipment that was alive before. */
export function ToggleForm({ feeds, first, busy, add }: Props) {
  const [chosen, setChosen] = useState(first)
  const [results, setResults] = useState<Record<string, Result>>({})
  const { switches = [], units = [] } = feeds
  return (
    <form
      className="toggle-form"
      onSubmit={(event) => {
        event.preventDefault()
        add({ id: crypto.randomUUID(), switch: chosen, results })
      }}
    >
      <PickField label="Switched off" value={chosen} options={switches.map((one) => [one.id, one.name] as const)} set={setChosen} />
      {units.map((unit) => (
        <div key={unit.id} className="toggle-unit" role="group" aria-label={`${unit.name}: what became of it`}>
          <span>{unit.name}</span>
          <Radio.Group
            optionType="button"
            value={results[unit.id] ?? null}
            options={RESULTS}
            onChange={(event) => setResults({ ...results, [unit.id]: event.target.value as Result })}
          />
        </div>
      ))}
      <p className="quiet">Only what ran, or was live, before it was switched off.</p>
      <Button type="primary" htmlType="submit" disabled={busy || !chosen || !Object.keys(results).length}>
        Note it
      </Button>
    </form>
  )
}

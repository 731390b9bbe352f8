import { useState } from 'react'

import type { Feeds, Toggle } from '../../api/schema.gen'

type Result = Toggle['results'][string]
type Props = { feeds: Feeds; first: string; busy: boolean; add: (toggle: Toggle) => void }

const RESULTS: Record<Result, string> = { died: 'died', partly: 'partly', stayed: 'stayed' }

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
      <label>
        Switched off
        <select value={chosen} onChange={(event) => setChosen(event.target.value)}>
          {switches.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      {units.map((unit) => (
        <div key={unit.id} className="toggle-unit" role="group" aria-label={`${unit.name}: what became of it`}>
          <span>{unit.name}</span>
          {(Object.keys(RESULTS) as Result[]).map((result) => (
            <button key={result} type="button" className="plain-button" aria-pressed={results[unit.id] === result} onClick={() => setResults({ ...results, [unit.id]: result })}>
              {RESULTS[result]}
            </button>
          ))}
        </div>
      ))}
      <p className="quiet">Only what ran, or was live, before it was switched off.</p>
      <button type="submit" className="accent-button" disabled={busy || !chosen || !Object.keys(results).length}>
        Note it
      </button>
    </form>
  )
}

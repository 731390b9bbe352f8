import { useState } from 'react'

import type { ShownReading } from '../../api/schema.gen'

type Props = {
  readings: readonly ShownReading[]
  correct: (shown: ShownReading, value: number) => void
  withdraw: (shown: ShownReading) => void
}

const clock = new Intl.DateTimeFormat(undefined, { hour: 'numeric', minute: '2-digit' })

/** What was read, each with its state; readings of another state look different. */
export function ReadingsView({ readings, correct, withdraw }: Props) {
  const [chosen, setChosen] = useState<string | null>(null)
  if (!readings.length)
    return (
      <section className="readings" aria-label="Readings">
        <h2>Readings</h2>
        <p className="quiet">None yet. Set up the next test, or touch two points on the strip.</p>
      </section>
    )
  return (
    <section className="readings" aria-label="Readings">
      <h2>Readings</h2>
      <ol>
        {readings.map((shown) => (
          <li key={shown.reading.id}>
            <button type="button" className="reading" aria-expanded={chosen === shown.reading.id} onClick={() => setChosen(chosen === shown.reading.id ? null : shown.reading.id)}>
              <b className="num">
                {shown.reading.value} {shown.reading.unit}
              </b>
              <span>
                {shown.place}
                {shown.reading.measurement.meter === 'lo_z' ? ', LoZ' : ''}
                <span className={`state-tag ${shown.reading.measurement.open_switches.length ? 'opened' : 'closed'}`}>{shown.state}</span>
              </span>
              <span className="quiet">
                {clock.format(new Date(shown.entered_at))}
                {shown.corrected ? ' · corrected' : ''}
              </span>
            </button>
            {chosen === shown.reading.id ? (
              <Mend
                shown={shown}
                correct={(value) => {
                  setChosen(null)
                  correct(shown, value)
                }}
                withdraw={() => {
                  setChosen(null)
                  withdraw(shown)
                }}
              />
            ) : null}
          </li>
        ))}
      </ol>
    </section>
  )
}

function Mend({ shown, correct, withdraw }: { shown: ShownReading; correct: (value: number) => void; withdraw: () => void }) {
  const [text, setText] = useState(String(shown.reading.value))
  const value = Number(text.replace(',', '.'))
  const usable = text.trim() !== '' && Number.isFinite(value) && value !== shown.reading.value
  return (
    <form
      className="mend"
      onSubmit={(event) => {
        event.preventDefault()
        if (usable) correct(value)
      }}
    >
      <label>
        <span className="visually-hidden">Corrected number, {shown.reading.unit}</span>
        <input className="num" inputMode="decimal" value={text} onChange={(event) => setText(event.target.value)} autoFocus />
        <span className="num">{shown.reading.unit}</span>
      </label>
      <button type="submit" className="plain-button" disabled={!usable}>
        Correct
      </button>
      <button type="button" className="plain-button" onClick={withdraw}>
        Withdraw
      </button>
    </form>
  )
}

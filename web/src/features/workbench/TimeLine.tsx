import { useState } from 'react'

import type { Look, ShownLook, ShownReading } from '../../api/schema.gen'
import { handsFull, heldOf, valuesOf } from '../../entities/strip/setup'
import { numberOf } from '../../shared/numbers'
import { WordChoice } from './WordChoice'

type Props = {
  readings: readonly ShownReading[]
  looks: readonly ShownLook[]
  correct: (shown: ShownReading, value: number, confirmed: boolean, onDone: () => void) => void
  doubtOf: (id: string) => string
  withdraw: (said: ShownReading['reading'] | Look) => void
}

/** From so many on they are folded by state. */
const FOLDED_FROM = 14

const clock = new Intl.DateTimeFormat(undefined, { hour: 'numeric', minute: '2-digit' })

/** Everything read and seen, in the order of time, each with its state; another state looks different. */
export function TimeLine({ readings, looks, correct, doubtOf, withdraw }: Props) {
  const [chosen, setChosen] = useState<string | null>(null)
  const choose = (id: string) => setChosen(chosen === id ? null : id)
  const said: Item[] = [
    ...readings.map((shown) => ({ at: shown.entered_at, id: shown.reading.id, shown, seen: null })),
    ...looks.map((seen) => ({ at: seen.entered_at, id: seen.look.id, shown: null, seen })),
  ].sort((a, b) => a.at.localeCompare(b.at))
  if (!said.length)
    return (
      <section className="readings" aria-label="Readings">
        <h2>Read and seen</h2>
        <p className="quiet">Nothing yet. Set up the next test, or touch two points on the strip.</p>
      </section>
    )
  const folded = said.length > FOLDED_FROM
  const groups: [string, Item[]][] = folded ? [...Map.groupBy(said, (one) => one.shown?.state ?? 'seen and told')] : [['', said]]
  return (
    <section className="readings" aria-label="Readings">
      <h2>Read and seen</h2>
      {groups.map(([state, list], i) => {
        const items = (
          <ol>
            {list.map((one) => (
              <Item
                key={one.id}
                {...one}
                isOpen={chosen === one.id}
                choose={() => choose(one.id)}
                done={() => setChosen(null)}
                correct={correct}
                doubtOf={doubtOf}
                withdraw={withdraw}
              />
            ))}
          </ol>
        )
        // Many are told apart by their state: what was read in another is never one series with it.
        return folded ? (
          <details key={state} className="standing" open={i === groups.length - 1}>
            <summary>
              {state} <span className="num">{list.length}</span>
            </summary>
            {items}
          </details>
        ) : (
          <div key={state}>{items}</div>
        )
      })}
    </section>
  )
}

type Item = { id: string; at: string; shown: ShownReading | null; seen: ShownLook | null }
type ItemProps = Item & Pick<Props, 'correct' | 'doubtOf' | 'withdraw'> & { isOpen: boolean; choose: () => void; done: () => void }

function Item({ at, shown, seen, isOpen, choose, done, correct, doubtOf, withdraw }: ItemProps) {
  return (
    <li>
      <button type="button" className={`reading ${seen ? 'look' : ''}`} aria-expanded={isOpen} onClick={choose}>
        <b className="num">{shown ? shown.value : 'seen'}</b>
        <span>
          {shown ? shown.place : seen?.words}
          {shown ? (
            <span
              className={`state-tag ${shown.reading.measurement.open_switches?.length || handsFull(heldOf(shown.reading.measurement.hands)) ? 'opened' : 'closed'}`}
            >
              {shown.state}
            </span>
          ) : null}
          <code className="line">{(shown ?? seen)?.line}</code>
        </span>
        <span className="quiet">
          {clock.format(new Date(at))}
          {shown?.corrected ? ' · corrected' : ''}
        </span>
      </button>
      {isOpen && shown ? (
        <Mend
          shown={shown}
          doubt={doubtOf(shown.reading.id)}
          correct={(value, confirmed) => correct(shown, value, confirmed, done)}
          withdraw={() => {
            done()
            withdraw(shown.reading)
          }}
        />
      ) : null}
      {isOpen && seen ? (
        <div className="mend">
          <p className="quiet">{seen.reason}</p>
          <button type="button" className="plain-button" onClick={() => withdraw(seen.look)}>
            Withdraw
          </button>
        </div>
      ) : null}
    </li>
  )
}

/** What a touch opens to be typed in takes the focus, once. */
const takeFocus = (field: HTMLInputElement | null) => field?.focus()

function Mend({
  shown,
  doubt,
  correct,
  withdraw,
}: {
  shown: ShownReading
  doubt: string
  correct: (value: number, confirmed: boolean) => void
  withdraw: () => void
}) {
  const { unit } = shown.reading
  const [text, setText] = useState(String(shown.reading.value))
  const { value, why } = valuesOf(unit).length ? { value: Number(text), why: '' } : numberOf(text)
  const usable = value !== null && value !== shown.reading.value
  return (
    <form
      className="mend"
      onSubmit={(event) => {
        event.preventDefault()
        if (usable) correct(value, false)
      }}
    >
      {valuesOf(unit).length ? (
        <WordChoice unit={unit} chosen={text} choose={(chosen) => setText(String(chosen))} />
      ) : (
        <label>
          <span className="visually-hidden">Corrected number, {unit}</span>
          <input className="num" inputMode="decimal" value={text} onChange={(event) => setText(event.target.value)} ref={takeFocus} />
          <span className="num">{unit}</span>
        </label>
      )}
      <button type="submit" className="plain-button" disabled={!usable}>
        Correct
      </button>
      <button type="button" className="plain-button" onClick={withdraw}>
        Withdraw
      </button>
      {why || doubt ? (
        <p className="problem" role="alert">
          {why || doubt}
          {doubt && usable ? (
            <button type="button" className="plain-button" onClick={() => correct(value, true)}>
              Yes, that is what it shows
            </button>
          ) : null}
        </p>
      ) : null}
    </form>
  )
}

import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { suspect } from '../../api/queries'
import type { Diagnosis, Guard, Look, NextTest, Suspect, Verdict } from '../../api/schema.gen'
import { percent, rangesWords } from '../../entities/reading/words'
import { placesOf, type SuspectPlace } from '../../entities/strip/places'
import { isTaken, isWatched, unitOf } from '../../entities/strip/setup'
import { LatePick } from '../../shared/LatePick'
import { LookOver } from './LookChoice'
import { labelsOf } from './Numbers'
import { WatchCard } from './WatchCard'

const STANDING: Record<Verdict['standing'], string> = {
  sure: 'Found',
  open: 'Still looking',
  inseparable: 'Can’t narrow it further',
  unexplained: 'Does not add up',
}

const WAYS: Partial<Record<Suspect['kind'], string>> = { open: 'open', resistive: 'high resistance', intermittent: 'intermittent' }

export function VerdictView({ verdict }: { verdict: Verdict }) {
  return (
    <section className={`verdict ${verdict.standing}`} aria-label="Verdict" aria-live="polite">
      <span className="verdict-standing">
        {STANDING[verdict.standing]} · confidence <b className="num">{percent(verdict.probability)}</b>
      </span>
      <p className="verdict-words">{verdict.words}</p>
      <p className="verdict-advice">{verdict.advice}</p>
    </section>
  )
}

/** Readings that may not be what they seem, each with how to check it. */
export function GuardsView({ guards }: { guards: readonly Guard[] }) {
  if (!guards.length) return null
  return (
    <details className="guards" open={guards.length === 1}>
      <summary>{guards.length === 1 ? 'One reading to check' : `${guards.length} readings to check`}</summary>
      <ul>
        {guards.map((one) => (
          <li key={one.reading + one.slip}>
            {one.words} <b>{one.check}</b>
          </li>
        ))}
      </ul>
    </details>
  )
}

/** Where the scope ends: what an electrician should read beyond it, and what each number would mean. */
export function HandoverView({ test }: { test: NextTest }) {
  return (
    <section className="handover" aria-label="For the electrician">
      <h2>For the electrician, in the panel</h2>
      <p className="quiet">State: {test.state}</p>
      <ul>
        {test.words.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      <Predictions test={test} />
      <button type="button" className="plain-button" onClick={() => window.print()}>
        Print it
      </button>
    </section>
  )
}

/** The verdict stands; which test follows is being worked out. */
export function NextTestAwaited() {
  return (
    <section className="next-test" aria-label="Next test" aria-busy="true">
      <p className="quiet">Choosing the next test …</p>
    </section>
  )
}

/** So many questions of one card are said once, where they are answered. */
const MANY = 3

type NextProps = {
  test: NextTest
  nameOf: (part: string) => string
  accept: () => void
  accepted: boolean
  busy: boolean
  /** Whether a stop stands: what must be off comes before the look. */
  isStopped: boolean
  look: (found: Omit<Look, 'id'>) => void
  watched: (values: readonly (number | null)[]) => void
}

export function NextTestView({ test, nameOf, accept, accepted, busy, isStopped, look, watched }: NextProps) {
  const share = test.doubt_bits > 0 ? Math.min(test.bits / test.doubt_bits, 1) : 0
  return (
    <section className="next-test" aria-label="Next test">
      <header>
        <div>
          <p className="quiet">
            Next test · settles about <b className="num">{percent(share)}</b> of the doubt
          </p>
          <CardTitle words={isWatched(test) && test.words.length > MANY ? ['What runs, and what is pulled in?'] : test.words} />
        </div>
        {!isTaken(test) || accepted ? null : (
          <button type="button" className="accent-button" onClick={accept}>
            Set it up
          </button>
        )}
      </header>
      {test.look && isStopped && test.steps[0] ? <p className="caution">{test.steps[0]}</p> : null}
      {test.look ? (
        <LookOver asked={test.look} busy={busy} look={look} />
      ) : test.steps.length ? (
        <ol className="steps">
          {test.steps.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      ) : (
        <p className="quiet">State: {test.state}, as it is</p>
      )}
      {isWatched(test) ? <WatchCard key={test.words.join()} test={test} busy={busy} record={watched} /> : null}
      {isWatched(test) ? <Foreseen test={test} nameOf={nameOf} /> : <Predictions test={test} />}
      <p className="caution">{test.caution}</p>
      <details className="procedure">
        <summary>How to do it</summary>
        <ol>
          {test.procedure.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
        <p>{test.settles}</p>
        <p className="quiet">
          About <span className="num">{Math.max(1, Math.round(test.minutes))} min</span>
        </p>
      </details>
    </section>
  )
}

/** What a card asks; where it is all read at one place, the place once. */
export function CardTitle({ words }: { words: readonly string[] }) {
  const { common, each } = labelsOf(words)
  return (
    <h2>
      {each.map((one) => (
        <span key={one}>{one}</span>
      ))}
      {common ? <small>{common}</small> : null}
    </h2>
  )
}

function Predictions({ test }: { test: NextTest }) {
  if (!test.predictions.length) return null
  return (
    <table className="predictions">
      <thead className="visually-hidden">
        <tr>
          {test.words.map((words) => (
            <th key={words} scope="col">
              {words}
            </th>
          ))}
          <th scope="col">Suspects</th>
        </tr>
      </thead>
      <tbody>
        {test.predictions.map((one) => (
          <tr key={one.suspects.join()}>
            {one.ranges.map((ranges, i) => (
              <td key={test.words[i]} className={unitAt(test, i) === 'run' ? 'said' : 'num'}>
                {rangesWords(ranges, unitAt(test, i))}
              </td>
            ))}
            <td>{one.words.join(' · ')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** What each suspect lets run and what not: many things are seen at a glance, so they are told by what they do. */
function Foreseen({ test, nameOf }: { test: NextTest; nameOf: (part: string) => string }) {
  return (
    <ul className="foreseen">
      {test.predictions.map((one) => {
        const doing = new Map<string, string[]>()
        one.ranges.forEach((ranges, i) => {
          const place = test.measurements[i]?.place
          const does = rangesWords(ranges, unitAt(test, i))
          if (place?.kind === 'watching') doing.set(does, [...(doing.get(does) ?? []), nameOf(place.part)])
        })
        const told = [...doing].map(([does, names]) => `${doing.size === 1 && names.length > 1 ? 'all' : names.join(', ')} ${does}`)
        return (
          <li key={one.suspects.join()}>
            <b>{told.join(' · ')}</b> {one.words.join(' · ')}
          </li>
        )
      })}
    </ul>
  )
}

function unitAt(test: NextTest, i: number): string {
  const measurement = test.measurements[i]
  return measurement ? unitOf(measurement) : ''
}

export function Contradictions({ list }: { list: Diagnosis['contradictions'] }) {
  return list.map((one) => (
    <p key={one.words} className="problem" role="alert">
      {one.words}
    </p>
  ))
}

/** Where the fault may be, the likeliest first; each place with all the ways in which it may fail. */
export function SuspectsView({ callId, suspects }: { callId: string; suspects: readonly Suspect[] }) {
  const shown = placesOf(suspects).filter((one, rank) => rank < 6 && one.probability >= 0.005)
  return (
    <section className="suspects" aria-label="Suspects">
      <h2>Suspects</h2>
      {shown.map((one) => (
        <PlaceView key={one.chief.key} place={one} />
      ))}
      <WhyNot callId={callId} suspects={suspects} />
    </section>
  )
}

/** A suspect that somebody believes in: what it would have made every reading show. */
function WhyNot({ callId, suspects }: { callId: string; suspects: readonly Suspect[] }) {
  const [key, setKey] = useState('')
  const stands = suspects.find((one) => one.key === key)?.probability
  const { data, error } = useQuery({ ...suspect(callId, key, stands ?? 0), enabled: key !== '' })
  const others = suspects.filter((one) => one.kind !== 'none_of_these' && one.kind !== 'two_at_once').map((one) => [one.key, one.words] as const)
  return (
    <div className="why-not">
      <LatePick label="Why not …" value={key} options={[['', 'choose a suspect you believe in'], ...others]} set={setKey} />
      {error ? <p className="problem">{error.message}</p> : null}
      {data && key ? (
        <ul aria-live="polite">
          <li>
            It stands at <b className="num">{percent(data.probability)}</b>
            {data.evidence.length ? '.' : ': nothing was read or seen yet.'}
          </li>
          {data.evidence.map((one) => (
            <li key={one.reading} className={one.stance}>
              <b>{one.stance}</b> {one.words}
            </li>
          ))}
        </ul>
      ) : null}
    </div>
  )
}

function PlaceView({ place: { chief, probability, others } }: { place: SuspectPlace }) {
  const telling = chief.evidence.filter((one) => one.stance !== 'neutral')
  const head = (
    <>
      <b className="num share">{percent(probability)}</b>
      <span className="suspect-words">
        {chief.words}
        {others.length ? (
          <span className="quiet"> · or {others.map((one) => `${WAYS[one.kind] ?? one.words} ${percent(one.probability)}`).join(', ')}</span>
        ) : null}
        <i className="bar" style={{ ['--share' as string]: probability }} />
      </span>
    </>
  )
  if (!telling.length && !chief.likelier_by.length) return <div className="suspect bare">{head}</div>
  return (
    <details className="suspect">
      <summary>{head}</summary>
      <ul>
        {telling.map((one) => (
          <li key={one.reading} className={one.stance}>
            <b>{one.stance}</b> {one.words}
          </li>
        ))}
        {chief.likelier_by.map((words) => (
          <li key={words} className="for">
            <b>ratings</b> {words}
          </li>
        ))}
      </ul>
    </details>
  )
}

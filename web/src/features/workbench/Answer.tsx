import type { Diagnosis, NextTest, Suspect, Verdict } from '../../api/schema.gen'
import { placesOf, type SuspectPlace } from './places'
import { percent, rangesWords } from './words'

const STANDING: Record<Verdict['standing'], string> = {
  sure: 'Found',
  open: 'Not yet sure',
  inseparable: 'As far as allowed tests go',
  unexplained: 'It does not add up',
}

const WAYS: Partial<Record<Suspect['kind'], string>> = { open: 'open', resistive: 'poor', intermittent: 'comes and goes' }

export function VerdictView({ verdict }: { verdict: Verdict }) {
  return (
    <section className={`verdict ${verdict.standing}`} aria-label="Verdict" aria-live="polite">
      <span className="verdict-standing">
        {STANDING[verdict.standing]} <b className="num">{percent(verdict.probability)}</b>
      </span>
      <p className="verdict-words">{verdict.words}</p>
      <p className="verdict-advice">{verdict.advice}</p>
    </section>
  )
}

export function NextTestView({ test, accept, accepted }: { test: NextTest; accept: () => void; accepted: boolean }) {
  const share = test.doubt_bits > 0 ? Math.min(test.bits / test.doubt_bits, 1) : 0
  return (
    <section className="next-test" aria-label="Next test">
      <header>
        <div>
          <p className="quiet">
            Next test · settles about <b className="num">{percent(share)}</b> of the doubt
          </p>
          <h2>
            {test.words.map((words) => (
              <span key={words}>{words}</span>
            ))}
          </h2>
        </div>
        <button type="button" className="accent-button" onClick={accept} aria-pressed={accepted}>
          {accepted ? 'Set up' : 'Set it up'}
        </button>
      </header>
      {test.steps.length ? (
        <ol className="steps">
          {test.steps.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      ) : (
        <p className="quiet">State: {test.state}, as it is</p>
      )}
      <table className="predictions">
        <tbody>
          {test.predictions.map((one) => (
            <tr key={one.suspects.join()}>
              {one.ranges.map((ranges, i) => (
                <td key={i} className="num">
                  {rangesWords(ranges, unitOf(test, i))}
                </td>
              ))}
              <td>{one.words.join(' · ')}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="caution">{test.caution}</p>
    </section>
  )
}

const unitOf = (test: NextTest, i: number) => (test.measurements[i]?.place.kind === 'around' ? 'A' : 'V')

export function Contradictions({ list }: { list: Diagnosis['contradictions'] }) {
  return list.map((one) => (
    <p key={one.words} className="problem" role="alert">
      {one.words}
    </p>
  ))
}

/** Where the fault may be, the likeliest first; each place with all the ways in which it may fail. */
export function SuspectsView({ suspects }: { suspects: readonly Suspect[] }) {
  const shown = placesOf(suspects).filter((one, rank) => rank < 6 && one.probability >= 0.005)
  return (
    <section className="suspects" aria-label="Suspects">
      <h2>Suspects</h2>
      {shown.map((one) => (
        <PlaceView key={one.chief.key} place={one} />
      ))}
    </section>
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
  if (!telling.length) return <div className="suspect bare">{head}</div>
  return (
    <details className="suspect">
      <summary>{head}</summary>
      <ul>
        {telling.map((one) => (
          <li key={one.reading} className={one.stance}>
            <b>{one.stance}</b> {one.words}
          </li>
        ))}
      </ul>
    </details>
  )
}

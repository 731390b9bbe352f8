import { discard, standBy, useUnsent } from '../../offline/outbox'
import { usePerson } from '../../shared/person'
import { unitWords } from './words'

/** What was said in this call and is not sent yet; what the server refused is asked about here. */
export function UnsentList({ callId, pointWords }: { callId: string; pointWords: (point: string) => string }) {
  const me = usePerson()
  const mine = useUnsent().filter((one) => one.callId === callId && one.personId === me.id)
  if (!mine.length) return null
  return (
    <section className="unsent" aria-label="Not sent yet">
      <h2>Not sent yet</h2>
      <ul>
        {mine.map((one) => (
          <li key={one.id}>
            {one.entries.map((entry) => (
              <span key={entry.id} className="unsent-words">
                {entry.action === 'withdraw' ? 'Taken back' : saidWords(entry.reading, pointWords)}
              </span>
            ))}
            {one.problem ? (
              <span className="problem" role="alert">
                {one.problem}
                {one.asks ? (
                  <button type="button" className="plain-button" onClick={() => void standBy(one)}>
                    Yes, that is what it shows
                  </button>
                ) : null}
              </span>
            ) : null}
            <button type="button" className="plain-button" onClick={() => void discard(one.id ?? 0)}>
              Take it back
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

type Said = Parameters<typeof unitWords>[0]

function saidWords(said: Said | { sign: string } | null | undefined, pointWords: (point: string) => string): string {
  if (!said) return ''
  if ('sign' in said) return said.sign.replaceAll('_', ' ')
  const { place } = said.measurement
  const where = place.kind === 'between' ? `${pointWords(place.a)} to ${pointWords(place.b)}` : place.kind === 'near' ? pointWords(place.point) : 'leg' in place ? `${place.leg} at ${place.part}` : place.part
  return `${unitWords(said)} · ${where}`
}

import { useEffect, useRef } from 'react'
import { useLocation } from 'react-router'

import { unitWords } from '../../entities/reading/words'
import type { Unsent } from '../../offline/database'
import { discard, standBy, useHasSignal, useUnsent } from '../../offline/outbox'
import { NOT_SENT } from '../../offline/Signal'
import { usePerson } from '../../shared/person'

type Props = { callId: string; pointWords: (point: string) => string; changeLine: (line: string) => void }

/** What was said in this call and is not sent yet; what the server refused stands aside and is asked about here. */
export function UnsentList({ callId, pointWords, changeLine }: Props) {
  const me = usePerson()
  const mine = useUnsent().filter((one) => one.callId === callId && one.personId === me.id)
  const section = useRef<HTMLElement>(null)
  const { hash, key } = useLocation()
  const isWanted = hash === `#${NOT_SENT}` && mine.some((one) => one.problem)
  useEffect(() => {
    if (!isWanted) return
    section.current?.scrollIntoView({ block: 'center' })
    section.current?.focus({ preventScroll: true })
  }, [isWanted, key])
  const hasSignal = useHasSignal()
  // What goes out at once needs no list.
  const shown = hasSignal ? mine.filter((one) => one.problem) : mine
  if (!mine.length) return null
  if (!shown.length) return <p className="quiet">On its way …</p>
  const remove = (one: Unsent) => void discard(one.id ?? 0)
  return (
    <section ref={section} id={NOT_SENT} tabIndex={-1} className="unsent" aria-label="Not sent yet">
      <h2>Not sent yet</h2>
      <ul>
        {shown.map((one) => (
          <li key={one.id}>
            {one.entries.length ? (
              one.entries.map((entry) => (
                <span key={entry.id} className="unsent-words">
                  {entry.action === 'withdraw' ? 'Taken back' : saidWords(entry.reading, pointWords)}
                </span>
              ))
            ) : (
              <span className="unsent-words">
                “{one.line}” <span className="quiet">not read yet</span>
              </span>
            )}
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
            {one.line && one.problem ? (
              <button
                type="button"
                className="plain-button"
                onClick={() => {
                  changeLine(one.line ?? '')
                  remove(one)
                }}
              >
                Change the line
              </button>
            ) : null}
            <button type="button" className="plain-button" onClick={() => remove(one)}>
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
  const where =
    place.kind === 'between'
      ? `${pointWords(place.a)} to ${pointWords(place.b)}`
      : place.kind === 'near'
        ? pointWords(place.point)
        : 'leg' in place
          ? `${place.leg} at ${place.part}`
          : place.part
  return `${unitWords(said)} · ${where}`
}

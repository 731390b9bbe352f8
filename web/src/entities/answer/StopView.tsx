import { type RefObject, useEffect, useRef, useState } from 'react'

import type { Stop } from '../../api/schema.gen'
import { percent } from '../reading/words'

/** Going on is dangerous: nothing else is looked at before this. Scrolled away, its title stays pinned above everything. */
export function StopView({ stop }: { stop: Stop }) {
  const card = useRef<HTMLElement>(null)
  const [isAway, setAway] = useState(false)
  useEffect(() => {
    if (!card.current) return
    const watcher = new IntersectionObserver(([seen]) => setAway(!seen?.isIntersecting), { rootMargin: '-112px 0px 0px 0px' })
    watcher.observe(card.current)
    return () => watcher.disconnect()
  }, [])
  useFocusOnce(card, `${stop.title} ${stop.words}`)
  const read = () => {
    card.current?.scrollIntoView({ block: 'start' })
    card.current?.focus({ preventScroll: true })
  }
  return (
    <>
      {isAway ? (
        <button type="button" className="stop-pinned" onClick={read}>
          {stop.title}
        </button>
      ) : null}
      <section ref={card} className="stop" role="alert" aria-label="Stop" tabIndex={-1}>
        <h2>{stop.title}</h2>
        <p>{stop.words}</p>
        <p>
          <b>Clears it:</b> {stop.clears}
        </p>
        <p className="quiet">
          {stop.readings.length || stop.probability === null ? (
            'The readings themselves say so, whatever else is likely.'
          ) : (
            <>
              Confidence <b className="num">{percent(stop.probability)}</b>.
            </>
          )}{' '}
          The licensed person and the local code decide.
        </p>
      </section>
    </>
  )
}

/** Moves the focus to something new, but never out of a field that is being typed in: then once that field is left. */
function useFocusOnce(target: RefObject<HTMLElement | null>, what: string) {
  useEffect(() => {
    const move = () => target.current?.focus({ preventScroll: true })
    const field = document.activeElement
    if (!(field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) || field.value === '') return move()
    // The field that is gone to takes the focus first.
    const later = () => void setTimeout(move)
    field.addEventListener('blur', later, { once: true })
    return () => field.removeEventListener('blur', later)
  }, [target, what])
}

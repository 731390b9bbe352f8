import { useEffect, useRef } from 'react'

const acts = new Set<() => void>()

/** Does what every part of the page asked for, as long as it still can. */
export const beforeLeaving = () => acts.forEach((act) => act())

/** Does something as long as it still can: when the page is hidden or left, and when what asks for it is taken away. */
export function useLeaving(act: () => void) {
  const latest = useRef(act)
  useEffect(() => {
    latest.current = act
  })
  useEffect(() => {
    const leave = () => latest.current()
    acts.add(leave)
    return () => {
      acts.delete(leave)
      leave()
    }
  }, [])
}

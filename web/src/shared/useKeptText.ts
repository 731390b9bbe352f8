import { useEffect, useState } from 'react'

import { useLeaving } from './useLeaving'

const PAUSE_MS = 800

/**
 * A text that is kept as it is typed: at a pause, when its field is left, and when the page is. What was changed from
 * outside is shown as long as nothing is being typed here, and is never overwritten with what stood before it. A text that
 * was refused stays in its field until more is typed, or until it is let go.
 */
export function useKeptText(value: string, keep: (text: string, refused: () => void) => void) {
  // What is typed and not kept yet.
  const [typed, setTyped] = useState<{ text: string; isRefused: boolean } | null>(null)
  const flush = () => {
    if (typed === null) return
    const { text } = typed
    setTyped(null)
    if (text !== value) keep(text, () => setTyped((more) => more ?? { text, isRefused: true }))
  }
  const waits = typed !== null && (!typed.isRefused || typed.text === value)
  useEffect(() => {
    if (!waits) return
    const later = setTimeout(flush, PAUSE_MS)
    return () => clearTimeout(later)
  })
  useLeaving(flush)
  return {
    text: typed?.text ?? value,
    type: (text: string) => setTyped({ text, isRefused: false }),
    flush,
    letGo: () => setTyped(null),
  }
}

import { useState } from 'react'

import { signedNumberOf } from './numbers'

const textOf = (value: number | null | undefined) => (value === null || value === undefined ? '' : String(value))

/**
 * The text of a number field. A value that was changed from outside takes its place; one that follows from what was just
 * typed does not, since it may have been rounded on its way through the units, nor while more is being typed.
 */
export function useNumberText(value: number | null | undefined) {
  const now = value ?? null
  const [text, setText] = useState(textOf(now))
  const [seen, setSeen] = useState(now)
  const [isTyped, setTyped] = useState(false)
  if (now !== seen) {
    setSeen(now)
    setTyped(false)
    if (!isTyped) setText(textOf(now))
  }
  return {
    text,
    typed: signedNumberOf(text),
    type: (next: string) => {
      setText(next)
      setTyped(true)
    },
    restore: () => {
      setText(textOf(now))
      setTyped(false)
    },
  }
}

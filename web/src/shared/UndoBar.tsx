import { useEffect } from 'react'

type Props = { words: string; undo: () => void; gone: () => void }

const STAYS_MS = 12_000

/** Says what was just done, and takes it back with one touch. */
export function UndoBar({ words, undo, gone }: Props) {
  useEffect(() => {
    const timer = setTimeout(gone, STAYS_MS)
    return () => clearTimeout(timer)
  }, [words, gone])
  return (
    <div className="undo-bar" role="status">
      <span>{words}</span>
      <button type="button" className="head-plain" onClick={undo}>
        Undo
      </button>
    </div>
  )
}

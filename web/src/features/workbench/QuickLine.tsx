import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useId, useState } from 'react'

import { answered, api } from '../../api/client'
import type { Look, Reading } from '../../api/schema.gen'

type Props = { callId: string; busy: boolean; send: (said: Reading | Look, onDone: () => void) => void }

/** One line from the keyboard or dictated: where, what, state; it says back what it understood. */
export function QuickLine({ callId, busy, send }: Props) {
  const [text, setText] = useState('')
  const [saidId, setSaidId] = useState(() => crypto.randomUUID())
  const help = useId()
  const { data } = useQuery({
    queryKey: ['line', callId, text],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/line', { params: { path: { call_id: callId } }, body: { text, id: saidId } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    enabled: text.trim() !== '',
  })
  const read = text.trim() === '' ? undefined : data
  const complete = (word: string) => setText(`${text.slice(0, text.lastIndexOf(' ') + 1)}${word} `)
  return (
    <form
      className="quick-line"
      aria-label="Quick entry"
      onSubmit={(event) => {
        event.preventDefault()
        if (!read?.said || busy) return
        send({ ...read.said, id: saidId }, () => {
          setText('')
          setSaidId(crypto.randomUUID())
        })
      }}
    >
      <label>
        <span>One line</span>
        <input
          className="num"
          value={text}
          maxLength={200}
          autoComplete="off"
          autoCapitalize="off"
          spellCheck={false}
          placeholder="whip L1-L2 243.1V"
          aria-describedby={help}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            const first = read?.completions[0]
            if (event.key === 'Tab' && !event.shiftKey && first && !read.said) {
              event.preventDefault()
              complete(first)
            }
          }}
        />
      </label>
      <p id={help} className={read?.said ? 'read-back' : 'quiet'} aria-live="polite">
        {read ? read.words : 'A part, conductors, a number with its unit; off:SWITCH for what is open; in:, out:, lifted:, removed: for what is done by hand. Tab completes.'}
      </p>
      {read && !read.said && read.completions.length ? (
        <div className="completions">
          {read.completions.map((word) => (
            <button key={word} type="button" className="plain-button num" onClick={() => complete(word)}>
              {word}
            </button>
          ))}
        </div>
      ) : null}
      {read?.said ? (
        <button type="submit" className="accent-button" disabled={busy}>
          Record the line
        </button>
      ) : null}
    </form>
  )
}

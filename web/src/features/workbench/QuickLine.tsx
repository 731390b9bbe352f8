import { keepPreviousData, queryOptions, useQuery, useQueryClient } from '@tanstack/react-query'
import { useId, useRef, useState } from 'react'

import { answered, api } from '../../api/client'
import type { Look, Reading } from '../../api/schema.gen'

type Props = { callId: string; busy: boolean; send: (said: Reading | Look, onDone: () => void) => void }

const lineQuery = (callId: string, text: string, id: string) =>
  queryOptions({
    queryKey: ['line', callId, text],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/line', { params: { path: { call_id: callId } }, body: { text, id } })),
    staleTime: Infinity,
  })

/** One line from the keyboard or dictated: where, what, state; it says back what it understood. */
export function QuickLine({ callId, busy, send }: Props) {
  const [text, setText] = useState('')
  const [saidId, setSaidId] = useState(() => crypto.randomUUID())
  const help = useId()
  const field = useRef<HTMLInputElement>(null)
  const client = useQueryClient()
  // While a line is being read the words of the one before stay, so that nothing jumps; they are never what is recorded.
  const { data } = useQuery({ ...lineQuery(callId, text, saidId), placeholderData: keepPreviousData, enabled: text.trim() !== '' })
  const read = text.trim() === '' ? undefined : data
  const complete = (word: string) => setText(`${text.slice(0, text.lastIndexOf(' ') + 1)}${word} `)
  const record = async (text: string) => {
    const { said } = await client.fetchQuery(lineQuery(callId, text, saidId))
    if (!said) return
    send({ ...said, id: saidId }, () => {
      setText('')
      setSaidId(crypto.randomUUID())
    })
  }
  return (
    <form
      className="quick-line"
      aria-label="Quick entry"
      onSubmit={(event) => {
        event.preventDefault()
        // Enter may be faster than the read-back, and than this page's own picture of the line: the field itself is asked.
        const standing = field.current?.value ?? ''
        if (standing.trim() !== '' && !busy) record(standing).catch(() => undefined)
      }}
    >
      <label>
        <span>One line</span>
        <input
          ref={field}
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

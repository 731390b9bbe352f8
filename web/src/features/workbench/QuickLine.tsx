import { keepPreviousData, queryOptions, useQuery, useQueryClient } from '@tanstack/react-query'
import { useId, useRef } from 'react'

import { answered, api } from '../../api/client'
import type { Look, Reading } from '../../api/schema.gen'

type Props = { callId: string; text: string; setText: (text: string) => void; send: (line: string, said: Reading | Look | null) => void }

const PREVIEW = 'preview'

const lineQuery = (callId: string, text: string) =>
  queryOptions({
    queryKey: ['line', callId, text],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/line', { params: { path: { call_id: callId } }, body: { text, id: PREVIEW } })),
    staleTime: Infinity,
    gcTime: 60_000,
  })

/** One line from the keyboard or dictated: where, what, state; it says back what it understood. */
export function QuickLine({ callId, text, setText, send }: Props) {
  const help = useId()
  const field = useRef<HTMLInputElement>(null)
  const client = useQueryClient()
  // While a line is being read the words of the one before stay, so that nothing jumps; they are never what is recorded.
  const { data } = useQuery({ ...lineQuery(callId, text), placeholderData: keepPreviousData, enabled: text.trim() !== '' })
  const read = text.trim() === '' ? undefined : data
  const complete = (word: string) => {
    setText(`${text.slice(0, text.lastIndexOf(' ') + 1)}${word} `)
    field.current?.focus()
  }
  const record = (line: string) => {
    const standing = client.getQueryData(lineQuery(callId, line).queryKey)
    // It was read back, and asks something: the question stands until it is answered.
    if (standing && !standing.said) return
    send(line.trim(), standing?.said ? { ...standing.said, id: crypto.randomUUID() } : null)
    setText('')
  }
  return (
    <form
      className="quick-line"
      aria-label="Quick entry"
      onSubmit={(event) => {
        event.preventDefault()
        // Enter may be faster than this page's own picture of the line: the field itself is asked.
        const line = field.current?.value ?? ''
        if (line.trim() !== '') record(line)
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
        {read
          ? read.words
          : 'A part, conductors, a number with its unit; off:SWITCH for what is open; in:, out:, lifted:, removed: for what is done by hand. Tab completes.'}
      </p>
      <WordButtons label="What is meant" words={read?.choices ?? []} choose={setText} />
      <WordButtons label="What may come next" words={read && !read.said ? read.completions : []} choose={complete} />
      {read?.said ? (
        <button type="submit" className="accent-button">
          Record the line
        </button>
      ) : null}
    </form>
  )
}

function WordButtons({ label, words, choose }: { label: string; words: readonly string[]; choose: (words: string) => void }) {
  if (!words.length) return null
  return (
    <div className="completions" role="group" aria-label={label}>
      {words.map((word) => (
        <button key={word} type="button" className="plain-button num" onClick={() => choose(word)}>
          {word}
        </button>
      ))}
    </div>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'

import { answered, api, isUnreachable, RequestFailed } from '../../api/client'
import { hold } from '../../api/held'
import { workbench } from '../../api/queries'
import type { Look, NewEntry, Reading, ShownReading } from '../../api/schema.gen'
import { inTurn, keep, keepLine, noteSignal, onSent, waitsFor } from '../../offline/outbox'
import { usePerson } from '../../shared/person'

/** Entries said in one go, and what takes them back. */
type Step = { entries: NewEntry[]; inverse: (() => NewEntry[]) | null; onDone: () => void }

const entry = (action: NewEntry['action'], reading_id: string, reading: Reading | Look | null, confirmed: boolean): NewEntry => ({
  id: crypto.randomUUID(),
  action,
  reading_id,
  reading,
  confirmed,
})

/** Sends what is said about readings, keeps what takes each back, and holds the answer in the query's cache. */
export function useEntries(callId: string, onAnswer: () => void = () => undefined) {
  const client = useQueryClient()
  const me = usePerson()
  const [undos, setUndos] = useState<(() => NewEntry[])[]>([])
  // What was sent last about each reading; one that is withdrawn is on no page.
  const sent = useRef(new Map<string, string>())
  const lastKnown = (id: string) => {
    const page = client.getQueryData(workbench(callId).queryKey)
    const unread = page?.unread.find((one) => one.reading_id === id)
    if (unread) return unread.entry_id
    const shown = page?.readings.find((one) => one.reading.id === id) ?? page?.looks.find((one) => one.look.id === id)
    return shown?.entry_id ?? sent.current.get(id) ?? null
  }
  const send = useMutation({
    // An answer still on its way belongs to fewer readings.
    onMutate: () => client.cancelQueries({ queryKey: workbench(callId).queryKey }),
    mutationFn: async ({ entries: told }: Step) => {
      const entries = told.map((one) => (one.action === 'add' ? one : { ...one, follows: lastKnown(one.reading_id) }))
      // What is said while something still waits goes behind it: the order is part of what was said.
      if (!waitsFor(callId)) {
        try {
          const page = await inTurn(callId, () =>
            answered(api.POST('/api/calls/{call_id}/entry-lists', { params: { path: { call_id: callId }, query: { first: true } }, body: { entries } })),
          )
          noteSignal(true)
          return page
        } catch (error) {
          if (!isUnreachable(error)) throw error
          noteSignal(false)
        }
      }
      await keep(callId, me.id, entries)
      return null
    },
    onSuccess: async (data, { entries, inverse, onDone }) => {
      for (const told of entries) sent.current.set(told.reading_id, told.id)
      if (data) await hold(client, workbench(callId).queryKey, data)
      // What the number says stands at once; the test that follows from it comes with the second answer.
      if (data?.diagnosis.planning) void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
      if (inverse) setUndos((all) => [...all, inverse])
      onDone()
      onAnswer()
    },
    // Refused because somebody else changed it: show what they did.
    onError: (error) => {
      if (error instanceof RequestFailed && error.problem.code === 'conflict') void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
    },
  })
  // What waited is undone like what was sent at once.
  const answers = useRef(onAnswer)
  useEffect(() => {
    answers.current = onAnswer
  })
  useEffect(
    () =>
      onSent((sentCall, entries) => {
        if (sentCall !== callId) return
        for (const told of entries) sent.current.set(told.reading_id, told.id)
        const added = entries.filter((told) => told.action === 'add')
        if (added.length) setUndos((all) => [...all, () => added.map((told) => entry('withdraw', told.reading_id, null, false))])
        answers.current()
      }),
    [callId],
  )
  const error =
    send.error instanceof RequestFailed ? send.error.problem : send.error ? { code: 'unknown', message: 'The reading was not recorded: try again.' } : null
  const about = error ? send.variables?.entries[0] : undefined
  const asks = error?.code === 'strange_value'

  return {
    busy: send.isPending,
    problem: error && !asks ? error.message : '',
    /** Whether what was typed is meant: asked of a new reading, or of one that is corrected. */
    doubt: asks && about?.action === 'add' ? error.message : '',
    doubtOf: (id: string) => (asks && about?.action === 'correct' && about.reading_id === id ? error.message : ''),
    forget: send.reset,
    canUndo: undos.length > 0 && !send.isPending,
    add: (said: readonly (Reading | Look)[], confirmed: boolean, onDone: () => void) =>
      send.mutate({
        entries: said.map((one) => entry('add', one.id, one, confirmed)),
        inverse: () => said.map((one) => entry('withdraw', one.id, null, false)),
        onDone,
      }),
    /** Keeps a line and sends it in its turn: what it was read back as, or its text where it was not read yet. */
    addLine: (line: string, said: Reading | Look | null) =>
      said ? keep(callId, me.id, [entry('add', said.id, said, false)], line) : keepLine(callId, me.id, line),
    correct: (shown: ShownReading, value: number, confirmed: boolean, onDone: () => void) => {
      const before = shown.reading
      send.mutate({
        entries: [entry('correct', before.id, { ...before, value }, confirmed)],
        inverse: () => [entry('correct', before.id, before, true)],
        onDone,
      })
    },
    withdraw: (said: Reading | Look) =>
      send.mutate({
        entries: [entry('withdraw', said.id, null, false)],
        inverse: () => [entry('correct', said.id, said, true)],
        onDone: () => undefined,
      }),
    /** Withdraws what can no longer be read, for good: it could not be said again. */
    drop: (id: string) => send.mutate({ entries: [entry('withdraw', id, null, false)], inverse: null, onDone: () => undefined }),
    undo: () => {
      const last = undos.at(-1)
      if (!last) return
      send.mutate({ entries: last(), inverse: null, onDone: () => setUndos((all) => all.slice(0, -1)) })
    },
  }
}

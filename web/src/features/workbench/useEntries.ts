import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'

import { answered, api, RequestFailed } from '../../api/client'
import { hold } from '../../api/held'
import { workbench } from '../../api/queries'
import type { Look, NewEntry, Reading, ShownReading } from '../../api/schema.gen'

/** An entry and what takes it back. */
type Step = { entry: NewEntry; inverse: (() => NewEntry) | null; onDone: () => void }

const entry = (action: NewEntry['action'], reading_id: string, reading: Reading | Look | null, confirmed: boolean): NewEntry => ({
  id: crypto.randomUUID(),
  action,
  reading_id,
  reading,
  confirmed,
})

/** Sends what is said about readings, keeps what takes each back, and holds the answer in the query's cache. */
export function useEntries(callId: string) {
  const client = useQueryClient()
  const [undos, setUndos] = useState<(() => NewEntry)[]>([])
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
    mutationFn: ({ entry: body }: Step) =>
      answered(
        api.POST('/api/calls/{call_id}/entries', {
          params: { path: { call_id: callId }, query: { first: true } },
          body: body.action === 'add' ? body : { ...body, follows: lastKnown(body.reading_id) },
        }),
      ),
    onSuccess: async (data, { entry: told, inverse, onDone }) => {
      sent.current.set(told.reading_id, told.id)
      await hold(client, workbench(callId).queryKey, data)
      // What the number says stands at once; the test that follows from it comes with the second answer.
      if (data.diagnosis.planning) void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
      if (inverse) setUndos((all) => [...all, inverse])
      onDone()
    },
    // Refused because somebody else changed it: show what they did.
    onError: (error) => {
      if (error instanceof RequestFailed && error.problem.code === 'conflict') void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
    },
  })
  const error = send.error instanceof RequestFailed ? send.error.problem : send.error ? { code: 'unknown', message: 'The reading was not recorded: try again.' } : null

  return {
    busy: send.isPending,
    problem: error && error.code !== 'strange_value' ? error.message : '',
    doubt: error?.code === 'strange_value' ? error.message : '',
    forget: send.reset,
    canUndo: undos.length > 0 && !send.isPending,
    add: (reading: Reading | Look, confirmed: boolean, onDone: () => void) =>
      send.mutate({
        entry: entry('add', reading.id, reading, confirmed),
        inverse: () => entry('withdraw', reading.id, null, false),
        onDone,
      }),
    correct: (shown: ShownReading, value: number) => {
      const before = shown.reading
      send.mutate({
        entry: entry('correct', before.id, { ...before, value }, true),
        inverse: () => entry('correct', before.id, before, true),
        onDone: () => undefined,
      })
    },
    withdraw: (said: Reading | Look) =>
      send.mutate({
        entry: entry('withdraw', said.id, null, false),
        inverse: () => entry('correct', said.id, said, true),
        onDone: () => undefined,
      }),
    /** Withdraws what can no longer be read, for good: it could not be said again. */
    drop: (id: string) => send.mutate({ entry: entry('withdraw', id, null, false), inverse: null, onDone: () => undefined }),
    undo: () => {
      const last = undos.at(-1)
      if (!last) return
      send.mutate({ entry: last(), inverse: null, onDone: () => setUndos((all) => all.slice(0, -1)) })
    },
  }
}

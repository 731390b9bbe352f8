import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link } from 'react-router'

import { hold } from '../api/held'
import { workbench } from '../api/queries'
import { usePerson } from '../shared/person'
import { sendAll, useHasSignal, useUnsent } from './outbox'

const AGAIN_MS = 4000
/** Where a call's page shows what was not taken. */
export const NOT_SENT = 'not-sent'

/** Sends what waits as soon as there is a signal, and says meanwhile that it waits. */
export function Signal() {
  const client = useQueryClient()
  const me = usePerson()
  const mine = useUnsent().filter((one) => one.personId === me.id)
  const open = mine.filter((one) => !one.problem)
  const hasSignal = useHasSignal()
  const newest = open.at(-1)?.id ?? 0
  useEffect(() => {
    const send = () =>
      void sendAll(me.id, async (callId, page) => {
        await hold(client, workbench(callId).queryKey, page)
        // The verdict stands at once; the test that follows from it comes with the second answer.
        if (page.diagnosis.planning) void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
        void client.invalidateQueries({ queryKey: ['calls'] })
      })
    if (!newest) return
    send()
    const timer = setInterval(send, AGAIN_MS)
    window.addEventListener('online', send)
    return () => {
      clearInterval(timer)
      window.removeEventListener('online', send)
    }
  }, [client, me.id, newest])
  const refused = mine.filter((one) => one.problem)
  const [first] = refused
  const count = open.reduce((sum, one) => sum + Math.max(1, one.entries.length), 0)
  // What goes out at once needs no words.
  if (!first && (!count || hasSignal)) return null
  return (
    <p className="signal" role="status">
      {first ? (
        <Link to={`/calls/${first.callId}#${NOT_SENT}`}>
          <b className="num">{refused.length}</b> {refused.length === 1 ? 'entry needs' : 'entries need'} your answer
        </Link>
      ) : null}
      {count && !hasSignal ? (
        <>
          {first ? ' · ' : ''}
          No signal: <b className="num">{count}</b> {count === 1 ? 'entry is' : 'entries are'} kept here and sent later.
        </>
      ) : null}
    </p>
  )
}

import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link } from 'react-router'

import { hold } from '../api/held'
import { workbench } from '../api/queries'
import { usePerson } from '../shared/person'
import { sendAll, useUnsent } from './outbox'

const AGAIN_MS = 4000

/** Sends what waits as soon as there is a signal, and says meanwhile that it waits. */
export function Signal() {
  const client = useQueryClient()
  const me = usePerson()
  const mine = useUnsent().filter((one) => one.personId === me.id)
  const open = mine.filter((one) => !one.problem).length
  useEffect(() => {
    const send = () =>
      void sendAll(me.id, (callId, page) => {
        void hold(client, workbench(callId).queryKey, page)
        void client.invalidateQueries({ queryKey: ['calls'] })
      })
    if (!open) return
    send()
    const timer = setInterval(send, AGAIN_MS)
    window.addEventListener('online', send)
    return () => {
      clearInterval(timer)
      window.removeEventListener('online', send)
    }
  }, [client, me.id, open])
  if (!mine.length) return null
  const refused = mine.find((one) => one.problem)
  const count = mine.reduce((sum, one) => sum + one.entries.length, 0)
  return (
    <p className="signal" role="status">
      {refused ? (
        <>
          Not taken by the server: <Link to={`/calls/${refused.callId}`}>look at it</Link>
        </>
      ) : (
        <>
          No signal: <b className="num">{count}</b> {count === 1 ? 'entry is' : 'entries are'} kept here and sent later.
        </>
      )}
    </p>
  )
}

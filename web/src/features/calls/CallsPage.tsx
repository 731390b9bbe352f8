import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { lazy, Suspense, useDeferredValue, useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import { calls, type Wanted } from '../../api/queries'
import { CallList } from '../../entities/call/CallList'
import { STATUSES } from '../../entities/call/CallRow'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'

// The list stands before what narrows it, in a room kept for that.
const Narrowing = lazy(() => import('./Narrowing'))

const dayAfter = (day: string, more: number) => {
  const date = new Date(`${day}T00:00`)
  date.setDate(date.getDate() + more)
  return date.toISOString()
}

/** All calls, narrowed by words, by how far they are, whose they are, and by day; the address keeps what was chosen. */
export default function CallsPage() {
  const me = usePerson()
  const [asked, setAsked] = useSearchParams()
  const [search, setSearch] = useState(asked.get('search') ?? '')
  const words = useDeferredValue(search.trim())
  const status = asked.get('status')
  const day = asked.get('day')
  const who = asked.get('who')
  const set = (name: string, value: string | null) =>
    setAsked(
      (before) => {
        const next = new URLSearchParams(before)
        if (value) next.set(name, value)
        else next.delete(name)
        return next
      },
      { replace: true },
    )
  const wanted: Wanted = {
    ...(words ? { search: words } : {}),
    ...(status && status in STATUSES ? { status: status as keyof typeof STATUSES } : {}),
    ...(who ? { technician_id: who } : {}),
    ...(day ? { since: dayAfter(day, 0), until: dayAfter(day, 1) } : {}),
  }
  const { data, error } = useInfiniteQuery({ ...calls(wanted), placeholderData: keepPreviousData })
  const none = opensCalls(me) ? 'No calls yet. Open the first one with “New call”.' : 'No call is yours to see yet. A technician or a lead shares it with you.'
  return (
    <div className="page">
      <FrameTitle title="Calls">
        <span className="grow">Calls</span>
        <Link to="/board" className="head-plain">
          Due
        </Link>
        {opensCalls(me) ? (
          <Link to="/calls/new" className="accent-button head-button">
            New call
          </Link>
        ) : null}
      </FrameTitle>
      <div className="narrowing">
        {data || error ? (
          <Suspense>
            <Narrowing
              {...{ search, status, who, day, set }}
              seek={(words) => {
                setSearch(words)
                set('search', words.trim())
              }}
            />
          </Suspense>
        ) : null}
      </div>
      <CallList wanted={wanted} nothing={Object.keys(wanted).length ? 'No call matches: choose “All”, or other words.' : none} />
    </div>
  )
}

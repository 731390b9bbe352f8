import { useDeferredValue, useState } from 'react'
import { Link, useSearchParams } from 'react-router'

import type { Wanted } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'
import { CallList } from './CallList'
import { STATUSES } from './CallRow'

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
  const own = asked.has('mine')
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
    ...(own ? { technician_id: me.id } : {}),
    ...(day ? { since: dayAfter(day, 0), until: dayAfter(day, 1) } : {}),
  }
  const none = opensCalls(me) ? 'No calls yet. Open the first one with “New call”.' : 'No call is yours to see yet. A technician or a lead shares it with you.'
  return (
    <div className="page">
      <FrameTitle title="Calls">
        <span className="grow">Calls</span>
        {opensCalls(me) ? (
          <Link to="/calls/new" className="accent-button head-button">
            New call
          </Link>
        ) : null}
      </FrameTitle>
      <div className="narrowing">
        <label className="call-search">
          <span className="visually-hidden">Search calls</span>
          <input
            type="search"
            value={search}
            maxLength={80}
            placeholder="Customer, street, equipment …"
            onChange={(event) => {
              setSearch(event.target.value)
              set('search', event.target.value.trim())
            }}
          />
        </label>
        <div className="chips" role="group" aria-label="How far">
          {[null, ...Object.keys(STATUSES)].map((one) => (
            <button key={one ?? 'all'} type="button" className="chip" aria-pressed={status === one} onClick={() => set('status', one)}>
              {one === null ? 'All' : STATUSES[one as keyof typeof STATUSES]}
            </button>
          ))}
          <button type="button" className="chip" aria-pressed={own} onClick={() => set('mine', own ? null : 'yes')}>
            Mine
          </button>
          <label className="chip day-chip" data-chosen={day !== null}>
            <span className="visually-hidden">Day</span>
            <input type="date" value={day ?? ''} onChange={(event) => set('day', event.target.value)} />
          </label>
        </div>
      </div>
      <CallList wanted={wanted} nothing={Object.keys(wanted).length ? 'No call matches: choose “All”, or other words.' : none} />
    </div>
  )
}

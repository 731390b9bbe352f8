import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import { calls } from '../../api/queries'
import type { CallSummary } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { byDay, clockOf } from './days'

export default function CallsPage() {
  const me = usePerson()
  const [search, setSearch] = useState('')
  const asked = useDeferredValue(search.trim())
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({ ...calls(asked), placeholderData: keepPreviousData })
  const list = data?.pages.flatMap((page) => page.calls)
  const nothing = opensCalls(me) ? 'No calls yet. Open the first one with “New call”.' : 'No call is yours to see yet. A technician or a lead shares it with you.'
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
      <nav className="page-links" aria-label="Without a call">
        <Link to="/quick-read">Quick read</Link>
        <Link to="/bench">Bench</Link>
        <Link to="/tables">Tables</Link>
      </nav>
      <label className="call-search">
        <span className="visually-hidden">Search calls</span>
        <input type="search" value={search} maxLength={80} placeholder="Customer, street, equipment …" onChange={(event) => setSearch(event.target.value)} />
      </label>
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the calls" /> : null}
      {list?.length === 0 ? (
        <p className="page-state">{asked ? `No call matches “${asked}”.` : nothing}</p>
      ) : null}
      {byDay(list ?? [], new Date()).map(({ day, list: those }) => (
        <section key={day}>
          <h2 className="day">{day}</h2>
          <ul className="call-list">
            {those.map((call) => (
              <li key={call.id}>
                <CallRow call={call} />
              </li>
            ))}
          </ul>
        </section>
      ))}
      {hasNextPage ? (
        <button type="button" className="plain-button" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          {isFetchingNextPage ? 'Fetching earlier calls …' : 'Earlier calls'}
        </button>
      ) : null}
    </div>
  )
}

const SIGNS = { sure: 'Found:', inseparable: 'Narrowed down:', open: 'Likeliest so far:', unexplained: 'Not explained:' } as const

/** What the call's diagnosis last said. */
function Said({ found }: { found: NonNullable<CallSummary['found']> }) {
  return (
    <span className={`call-said ${found.standing}`}>
      <b>{SIGNS[found.standing]}</b> {found.words.replace(/^Likeliest so far: /, '')}
      {found.stop ? <span className="call-stop">{found.stop}</span> : null}
    </span>
  )
}

function CallRow({ call }: { call: CallSummary }) {
  return (
    <Link to={`/calls/${call.id}`} className="call-row">
      <span className="clock num">{clockOf(call.starts_at)}</span>
      <span className="call-what">
        <strong>{call.complaint}</strong>
        <span>
          {call.site_name} · {call.equipment_name}
        </span>
        <span className="quiet">
          {call.site_address} · {call.technician.name}
        </span>
      </span>
      <span className="call-count">
        <span className="num">{call.readings}</span> {call.readings === 1 ? 'reading' : 'readings'}
      </span>
      {call.found ? <Said found={call.found} /> : null}
    </Link>
  )
}

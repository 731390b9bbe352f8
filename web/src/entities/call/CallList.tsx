import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { useLocation } from 'react-router'

import { calls, type Wanted } from '../../api/queries'
import type { CallSummary } from '../../api/schema.gen'
import { useTakeAlong } from '../../offline/useTakeAlong'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { UndoBar } from '../../shared/UndoBar'
import { CallRow } from './CallRow'
import { byDay } from './days'
import { useFiling } from './useFiling'

/** Calls by day, the newest on top; what is deleted is put back with one touch. */
export function CallList({ wanted, nothing }: { wanted: Wanted; nothing: string }) {
  const me = usePerson()
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({ ...calls(wanted), placeholderData: keepPreviousData })
  // One that was deleted on its own page is put back from here, too.
  const came = useLocation().state as { deleted?: CallSummary } | null
  const [deleted, setDeleted] = useState<CallSummary | null>(came?.deleted ?? null)
  const gone = useCallback(() => setDeleted(null), [])
  const list = data?.pages.flatMap((page) => page.calls)
  const taken = useTakeAlong(list)
  const mine = (call: CallSummary) => opensCalls(me) && (me.role === 'lead' || call.technician.id === me.id)
  return (
    <>
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the calls" /> : null}
      {list?.length === 0 ? <p className="page-state">{nothing}</p> : null}
      {byDay(list ?? [], new Date()).map(({ day, list: those }) => (
        <section key={day}>
          <h2 className="day">{day}</h2>
          <ul className="call-list">
            {those.map((call) => (
              <li key={call.id}>
                <CallRow call={call} deleted={setDeleted} mayFile={mine(call)} />
              </li>
            ))}
          </ul>
        </section>
      ))}
      {taken.of > 0 && list?.length ? (
        <p className="quiet" role="status">
          {taken.ready < taken.of ? `Getting open calls ready for no signal: ${taken.ready} of ${taken.of} …` : `Open calls ready for no signal: ${taken.of}.`}
        </p>
      ) : null}
      {hasNextPage ? (
        <button type="button" className="plain-button" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          {isFetchingNextPage ? 'Fetching earlier calls …' : 'Earlier calls'}
        </button>
      ) : null}
      {deleted ? <Deleted call={deleted} gone={gone} /> : null}
    </>
  )
}

function Deleted({ call, gone }: { call: CallSummary; gone: () => void }) {
  const { restore } = useFiling(call.id)
  return (
    <UndoBar
      words={restore.error ? 'It was not put back: try again.' : `Deleted: ${call.complaint}, ${call.site_name}`}
      undo={() => restore.mutate(undefined, { onSuccess: gone })}
      gone={gone}
    />
  )
}

import { keepPreviousData, useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query'
import { useCallback, useState } from 'react'

import { answered, api } from '../../api/client'
import { calls, type Wanted } from '../../api/queries'
import type { CallSummary } from '../../api/schema.gen'
import { useTakeAlong } from '../../offline/useTakeAlong'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { UndoBar } from '../../shared/UndoBar'
import { CallRow } from './CallRow'
import { byDay } from './days'

/** Calls by day, the newest on top; what is deleted is put back with one touch. */
export function CallList({ wanted, nothing }: { wanted: Wanted; nothing: string }) {
  const me = usePerson()
  const client = useQueryClient()
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery({ ...calls(wanted), placeholderData: keepPreviousData })
  const [deleted, setDeleted] = useState<CallSummary | null>(null)
  const gone = useCallback(() => setDeleted(null), [])
  const restore = useMutation({
    mutationFn: (id: string) => answered(api.POST('/api/calls/{call_id}/restored', { params: { path: { call_id: id } } })),
    onSuccess: () => {
      setDeleted(null)
      void client.invalidateQueries({ queryKey: ['calls'] })
    },
  })
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
          {taken.ready < taken.of ? `Made ready for no signal: ${taken.ready} of ${taken.of} open calls …` : `All ${taken.of} open calls go on without a signal.`}
        </p>
      ) : null}
      {hasNextPage ? (
        <button type="button" className="plain-button" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          {isFetchingNextPage ? 'Fetching earlier calls …' : 'Earlier calls'}
        </button>
      ) : null}
      {deleted ? <UndoBar words={restore.error ? 'It was not put back: try again.' : `Deleted: ${deleted.complaint}, ${deleted.site_name}`} undo={() => restore.mutate(deleted.id)} gone={gone} /> : null}
    </>
  )
}

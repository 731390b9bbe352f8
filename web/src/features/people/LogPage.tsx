import { useInfiniteQuery } from '@tanstack/react-query'
import { Link } from 'react-router'

import { log } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'

const moment = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' })

/** Who changed what: scope, circuit, sheets, people. Nobody can change it. */
export default function LogPage() {
  const { data, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = useInfiniteQuery(log)
  const lines = data?.pages.flatMap((page) => page.lines)
  return (
    <div className="page">
      <FrameTitle title="Who changed what" />
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the log" /> : null}
      {lines?.length === 0 ? <p className="page-state">Nothing was changed yet.</p> : null}
      <ol className="log">
        {lines?.map((one) => (
          <li key={one.sequence}>
            <span className="quiet num">{moment.format(new Date(one.at))}</span>
            <b>{one.who ?? (one.what === 'person.refused' ? 'Somebody' : 'Zesty Copper')}</b>
            <span>
              {one.call_id ? (
                <Link className="text-link" to={`/calls/${one.call_id}`}>
                  {one.about}
                </Link>
              ) : (
                one.about
              )}
              {one.about ? ': ' : ''}
              {one.words}
            </span>
          </li>
        ))}
      </ol>
      {hasNextPage ? (
        <button type="button" className="plain-button" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          {isFetchingNextPage ? 'Fetching …' : 'Earlier'}
        </button>
      ) : null}
    </div>
  )
}

import { useQuery } from '@tanstack/react-query'
import { Empty } from 'antd'
import dayjs from 'dayjs'
import { Link } from 'react-router'

import { board } from '../../api/queries'
import type { Board } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'

type Line = Board['lines'][number]

const KINDS: readonly (readonly [Line['due']['kind'], string])[] = [
  ['bypass', 'Bypassed disconnects'],
  ['not_proven', 'Not proven yet'],
  ['return', 'Returns due'],
  ['put_back', 'Left as it was'],
  ['quote', 'Quotes waiting'],
  ['parts', 'Parts to order'],
]

/** What is due over all calls, the most dangerous first. */
export default function BoardPage() {
  const { data, error, refetch } = useQuery(board)
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="what is due" />
  return (
    <div className="page board">
      <FrameTitle title="Due">
        <span className="grow">Due</span>
        <button type="button" className="head-plain" onClick={() => window.print()}>
          Print
        </button>
      </FrameTitle>
      {data.lines.length ? null : <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Nothing is due: no bypass, nothing unproven, no part to order." />}
      {KINDS.map(([kind, title]) => {
        const lines = data.lines.filter((one) => one.due.kind === kind)
        return lines.length ? (
          <section key={kind} aria-label={title}>
            <h2>
              {title} <span className="quiet num">{lines.length}</span>
            </h2>
            <ul className="board-list">
              {lines.map((line, i) => (
                <BoardLine key={`${line.call.id}${i}`} line={line} />
              ))}
            </ul>
          </section>
        ) : null
      })}
      {data.more ? <p className="quiet">And {data.more} more.</p> : null}
    </div>
  )
}

function BoardLine({ line: { call, due } }: { line: Line }) {
  const on = due.on ? dayjs(due.on) : null
  const today = dayjs().startOf('day')
  const late = on !== null && on.isBefore(today)
  const days = on ? Math.abs(on.diff(today, 'day')) : 0
  const when = !on ? 'no day set' : late ? `${days} ${days === 1 ? 'day' : 'days'} overdue` : days === 0 ? 'today' : `in ${days} ${days === 1 ? 'day' : 'days'}`
  const dated = due.kind === 'bypass' || due.kind === 'not_proven' || due.kind === 'return'
  return (
    <li className={late || (dated && !on) ? 'late' : ''}>
      <Link
        to={`/calls/${call.id}/${due.kind === 'quote' || due.kind === 'parts' ? 'hand-over' : due.kind === 'not_proven' ? 'prove' : 'repair'}`}
        className="board-line"
      >
        <span>
          <b>{due.words}</b>
          <span>
            {call.site_name} · {call.equipment_name}
          </span>
          <span className="quiet">
            {call.complaint} · {call.technician.name} · {dayjs(call.starts_at).format('MMM D')}
          </span>
        </span>
        {dated ? (
          <span className="board-when">
            {on ? <span className="num">{on.format('ddd, MMM D')}</span> : null}
            <b>{when}</b>
          </span>
        ) : null}
      </Link>
    </li>
  )
}

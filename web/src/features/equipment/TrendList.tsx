import { useQuery } from '@tanstack/react-query'
import dayjs from 'dayjs'

import { trends } from '../../api/queries'
import { shown } from '../../shared/units'

const UNITS = { V: 'V', ohm: 'Ω', A: 'A', '%': '%', megohm: 'MΩ' } as const

/** What was measured over the visits, like compared with like; what is getting worse first. */
export function TrendList({ equipmentId }: { equipmentId: string }) {
  const { data } = useQuery(trends(equipmentId))
  if (!data) return null
  return (
    <section aria-label="Over the visits">
      <h2 className="day">Over the visits</h2>
      {data.trends.length ? null : (
        <p className="quiet">
          Nothing was measured twice in the same state yet{data.visits ? `, in ${data.visits} ${data.visits === 1 ? 'visit' : 'visits'}` : ''}.
        </p>
      )}
      <ul className="trend-list">
        {data.trends.map((one) => (
          <li key={one.key} className={one.worse ? 'worse' : ''}>
            <b>{one.name}</b>
            <span>{one.says}</span>
            <span className="trend-points">
              {one.points.map((point) => (
                <span key={point.at}>
                  <span className="num">
                    {shown(point.value)} {UNITS[one.unit]}
                  </span>
                  <span className="quiet">
                    {dayjs(point.at).format('MMM D, YYYY')}
                    {point.under ? `, ${point.under}` : ''}
                  </span>
                </span>
              ))}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

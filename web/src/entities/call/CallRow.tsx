import { lazy, Suspense, useState } from 'react'
import { Link } from 'react-router'

import { messageOf } from '../../api/client'
import type { CallSummary } from '../../api/schema.gen'
import { clockOf } from './days'

const CallMenu = lazy(() => import('./CallMenu'))

type Status = NonNullable<CallSummary['status']>

export const STATUSES: Record<Status, string> = { open: 'Open', found: 'Found', waiting: 'Waiting', done: 'Done' }

export const VISITS: Record<NonNullable<CallSummary['visit']>, string> = {
  service: 'Service',
  call_back: 'Call-back',
  maintenance: 'Maintenance',
  proof: 'To prove',
}

/** A call in a list: when, what, where, and how far it is. */
export function CallRow({ call, deleted, mayFile }: { call: CallSummary; deleted: (call: CallSummary) => void; mayFile: boolean }) {
  const [menu, setMenu] = useState(false)
  const [problem, setProblem] = useState('')
  const status = call.status ?? 'open'
  return (
    <div className="call-row">
      <Link to={`/calls/${call.id}`} className="call-link">
        <span className="clock num">{clockOf(call.starts_at)}</span>
        <span className="call-what">
          <strong>{call.complaint}</strong>
          <span>
            {call.site_name} · {call.equipment_name}
          </span>
          <span className="quiet">
            {call.site_address ? `${call.site_address} · ` : ''}
            {call.technician.name} · <span className="num">{call.readings}</span> {call.readings === 1 ? 'reading' : 'readings'}
          </span>
          {call.found ? <Said found={call.found} /> : null}
          {problem ? (
            <span className="problem" role="alert">
              {problem}
            </span>
          ) : null}
        </span>
        <span className="call-marks">
          <span className={`status ${status}`}>{STATUSES[status]}</span>
          {call.visit && call.visit !== 'service' ? <span className="status">{VISITS[call.visit]}</span> : null}
          {call.proof === 'not_proven' ? <span className="status not-proven">Not proven</span> : null}
        </span>
      </Link>
      {mayFile ? (
        menu ? (
          <Suspense fallback={<span className="more-button" />}>
            <CallMenu
              call={call}
              close={() => setMenu(false)}
              deleted={deleted}
              failed={(error) => setProblem(messageOf(error, 'It was not changed: try again.'))}
            />
          </Suspense>
        ) : (
          <button
            type="button"
            className="more-button"
            aria-haspopup="menu"
            aria-label={`More for ${call.complaint}, ${call.site_name}`}
            onClick={() => setMenu(true)}
          >
            ⋯
          </button>
        )
      ) : null}
    </div>
  )
}

/** What the call's diagnosis last said. */
function Said({ found }: { found: NonNullable<CallSummary['found']> }) {
  return (
    <span className={`call-said ${found.standing}`}>
      {found.words}
      {found.stop ? <span className="call-stop">{found.stop}</span> : null}
    </span>
  )
}

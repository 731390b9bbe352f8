import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { NavLink, Outlet, useLocation, useOutletContext, useParams } from 'react-router'

import { ratings, workbench } from '../../api/queries'
import type { CallRatings, Workbench } from '../../api/schema.gen'
import { percent } from '../../entities/reading/words'

type Stage = { name: string; to: string; state: string; done: boolean }

/** A call's stages in the order of the work, each with how far it is; below them the one that is open. */
export function CallFrame() {
  const slot = useOutletContext<HTMLElement | null>()
  const { callId = '' } = useParams()
  const { data } = useQuery(workbench(callId))
  const rated = useQuery({ ...ratings(callId), enabled: data !== undefined, retry: false })
  const bar = useRef<HTMLElement>(null)
  const { pathname } = useLocation()
  // On a phone not every stage fits: the one that is open does.
  useEffect(() => {
    bar.current?.querySelector('.is-here')?.scrollIntoView({ block: 'nearest', inline: 'center' })
  }, [pathname, data, rated.data])
  return (
    <>
      <nav ref={bar} className="stages" aria-label="Stages of this call">
        <ol>
          {stagesOf(callId, data, rated.data).map(({ name, to, state, done }) => (
            <li key={name}>
              <NavLink to={to} end={name === 'Find'} className={({ isActive }) => `${isActive ? 'is-here' : ''} ${done ? 'is-done' : ''}`}>
                <b>{name}</b>
                <span className="stage-state">{state}</span>
              </NavLink>
            </li>
          ))}
        </ol>
      </nav>
      <Outlet context={slot} />
    </>
  )
}

const STATUS: Record<NonNullable<Workbench['call']['status']>, string> = { open: 'open', found: 'open', waiting: 'waiting', done: 'done' }

const PROOF: Record<NonNullable<Workbench['call']['proof']>, string> = { open: 'to do', proven: 'proven', not_proven: 'not proven' }

function stagesOf(callId: string, data: Workbench | undefined, rated: CallRatings | undefined): Stage[] {
  const verdict = data?.diagnosis.verdict
  const said = data && data.readings.length + data.looks.length > 0
  const found = verdict?.standing === 'sure'
  const findings = rated?.supplies.flatMap((one) => one.findings) ?? []
  const count = (status: string) => findings.filter((one) => one.status === status).length
  const wrong = count('not_met')
  const proof = data?.call.proof ?? 'open'
  const damage = data?.looks.some((one) => one.look.part) ?? false
  return [
    { name: 'Call', to: `/calls/${callId}/call`, state: data ? STATUS[data.call.status ?? 'open'] : ' ', done: data?.call.status === 'done' },
    { name: 'Make safe', to: `/calls/${callId}/make-safe`, state: 'before a look', done: false },
    {
      name: 'Find',
      to: `/calls/${callId}`,
      state: !verdict ? ' ' : data.diagnosis.stop ? 'stop' : found ? 'found' : said ? percent(verdict.probability) : 'to do',
      done: found,
    },
    {
      name: 'Ratings',
      to: `/calls/${callId}/ratings`,
      state: !rated ? ' ' : wrong ? `${wrong} not met` : `${count('met')} met, ${count('cannot_tell')} open`,
      done: rated !== undefined && !wrong && !count('cannot_tell'),
    },
    { name: 'Repair', to: `/calls/${callId}/repair`, state: !verdict ? ' ' : found ? 'decide' : damage ? 'damage seen' : 'not yet', done: proof !== 'open' },
    { name: 'Prove', to: `/calls/${callId}/prove`, state: !data ? ' ' : PROOF[proof], done: proof === 'proven' },
    {
      name: 'Hand over',
      to: `/calls/${callId}/hand-over`,
      state: !data ? ' ' : data.call.status === 'done' ? 'closed' : 'to do',
      done: data?.call.status === 'done',
    },
  ]
}

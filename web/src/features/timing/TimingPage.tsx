import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { Link, useParams } from 'react-router'

import { answered, api, messageOf } from '../../api/client'
import { loadTests, workbench } from '../../api/queries'
import type { Timed, Workbench } from '../../api/schema.gen'
import { PlainRow, SIGNS } from '../../entities/sheet/Findings'
import { FrameTitle } from '../../shared/FrameTitle'
import { useKept } from '../../shared/kept'
import { Panel } from '../../shared/Panel'
import { Failed, Loading } from '../../shared/states'
import { shown } from '../../shared/units'
import { TimeChart } from './TimeChart'
import { seconds, seenFrom, seenIn, usualSteps } from './timing'
import { type Draft, TimingForm } from './TimingForm'

/** What the circuit does in time: contacts that follow late, stages, and the fan after the heat. */
export default function TimingPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(workbench(callId))
  if (data) return <Timing key={callId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the call" />
}

function Timing({ data }: { data: Workbench }) {
  const { call, circuit } = data
  const [draft, setDraft] = useKept<Draft>(`timing of ${call.id}`, {
    steps: usualSteps(circuit, data.strip),
    until_s: 600,
    clamp: '',
    leg: circuit.parts[0]?.lanes?.[0] ?? 'L1',
    seen: '',
    log: '',
    cfm: null,
    fan: '',
    suspect: '',
    jumpers: [],
  })
  const [tests] = [useQuery(loadTests(call.id)).data?.tests ?? []]
  const log = tests.find((one) => one.id === draft.log)?.report
  const typed = seenFrom(draft.seen)
  const seen = log ? seenIn(log) : (typed ?? [])
  const body = useDeferredValue({
    steps: [...draft.steps].sort((a, b) => a.at_s - b.at_s),
    until_s: draft.until_s,
    clamp: draft.clamp || null,
    leg: draft.leg,
    cfm: draft.cfm,
    fan: draft.fan || null,
    suspect: draft.suspect || null,
    moves: draft.jumpers.map(({ a, b }) => ({ kind: 'jumper' as const, a, b })),
    seen,
  })
  const { data: told, error } = useQuery({
    queryKey: ['timing', call.id, body],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/timing', { params: { path: { call_id: call.id } }, body })),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return (
    <div className="page timing-page">
      <FrameTitle title={`Timing: ${call.equipment_name}`}>
        <span className="grow title-words">
          <b>Timing</b> <span>{call.equipment_name}</span>
        </span>
        <Link className="head-plain" to={`/calls/${call.id}`}>
          Back to the call
        </Link>
      </FrameTitle>
      {error ? (
        <p className="problem" role="alert">
          {messageOf(error, 'This run could not be followed: look at the times again.')}
        </p>
      ) : null}
      {told ? <Answer circuit={circuit} told={told} leg={body.leg} seen={seen} until={body.until_s} /> : error ? null : <Loading what="what happens when" />}
      <TimingForm data={data} tests={tests} draft={draft} set={setDraft} badSeen={typed === null} />
    </div>
  )
}

type AnswerProps = { circuit: Workbench['circuit']; told: Timed; leg: string; seen: readonly { at_s: number; amps: number }[]; until: number }

function Answer({ circuit, told, leg, seen, until }: AnswerProps) {
  const [all, setAll] = useState(false)
  const clamp = circuit.parts.find((one) => one.id === told.clamp)?.name
  const nameOf = (id: string) => circuit.parts.find((one) => one.id === id)?.name ?? id
  const moments = all ? told.moments : told.moments.slice(0, 8)
  return (
    <section aria-label="What happens when" className="timing-answer">
      <ul className="findings">
        {told.chatters ? (
          <li className="finding not_met">
            <span className="sign" aria-hidden="true">
              {SIGNS.not_met}
            </span>{' '}
            It never rests: a contact starves its own coil, and chatters.
          </li>
        ) : null}
        {told.findings.map((one) => (
          <PlainRow key={one.label} found={one} unworked="By the times alone." />
        ))}
      </ul>
      <Panel what="chart">
        <TimeChart circuit={circuit} told={told} leg={leg} seen={seen} until={until} />
      </Panel>
      <p className="quiet">Bars: in, or running. Light bands: between the soonest and the latest that the delays allow.</p>
      <h2>
        Steps of the amps, {leg} at the {clamp}
      </h2>
      <ul className="timed-stages" aria-label="Steps of the amps">
        {told.stages.map((one) => (
          <li key={`${one.at_s} ${one.words}`} className={one.status}>
            <span className="sign" aria-hidden="true">
              {SIGNS[one.status]}
            </span>
            <span>
              <strong>{one.words}</strong>{' '}
              <span className="num">
                {one.amps > 0 ? '+' : '−'}
                {shown(Math.abs(one.amps))} A
              </span>{' '}
              at {seconds(one.at_s)}
              {one.latest_s > one.soonest_s ? ` (${seconds(one.soonest_s)} to ${seconds(one.latest_s)})` : ''}
              {one.seen_s !== null
                ? `; seen at ${seconds(one.seen_s)}${one.status === 'advice' ? ', out of its range' : ''}`
                : one.status === 'not_met'
                  ? '; not seen'
                  : ''}
            </span>
          </li>
        ))}
      </ul>
      <h2>What each moment reads</h2>
      <div className="moments-room" role="region" aria-label="What each moment reads" tabIndex={0}>
        <table className="moments">
          <thead>
            <tr>
              <th scope="col">From</th>
              <th scope="col">To</th>
              <th scope="col">Runs</th>
              <th scope="col">Amps</th>
              <th scope="col">To ground</th>
            </tr>
          </thead>
          <tbody>
            {moments.map((one) => (
              <tr key={one.from_s}>
                <td className="num">{seconds(one.from_s)}</td>
                <td className="num">{seconds(one.to_s)}</td>
                <td>{one.running.map(nameOf).join(', ') || 'nothing'}</td>
                <td className="num">
                  {Object.entries(one.amps)
                    .map(([lane, amps]) => `${lane} ${shown(amps)} A`)
                    .join(' · ')}
                </td>
                <td className="num">
                  {Object.entries(one.volts)
                    .map(([lane, volts]) => `${lane} ${shown(volts)} V`)
                    .join(' · ')}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {told.moments.length > moments.length ? (
        <button type="button" className="plain-button" onClick={() => setAll(true)}>
          All {told.moments.length} moments
        </button>
      ) : null}
    </section>
  )
}

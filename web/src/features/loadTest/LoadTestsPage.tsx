import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Empty, Popconfirm, Progress, Segmented } from 'antd'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { loadTests, workbench } from '../../api/queries'
import type { CallLoadTests } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { Failed, Loading } from '../../shared/states'
import { ClampForm } from './ClampForm'
import { FileForm } from './FileForm'
import { Findings } from './Findings'
import { TraceChart } from './TraceChart'
import { TypedForm } from './TypedForm'

type Test = CallLoadTests['tests'][number]

/** What volts and amps did over time: logged, imported or typed; a chart, and what it means. */
export default function LoadTestsPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(loadTests(callId))
  const call = useQuery(workbench(callId)).data
  if (!data || !call) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the load tests" />
  const tests = [...data.tests].reverse()
  return (
    <div className="page load-tests">
      <FrameTitle title={`Load tests of ${call.call.equipment_name}`}>
        <span className="grow title-words">
          <b>Load tests</b> <span>{call.call.equipment_name}</span>
        </span>
        <Link className="head-plain" to={`/calls/${callId}/prove`}>
          Prove
        </Link>
      </FrameTitle>
      {call.may_change ? <NewTest callId={callId} data={data} suspects={call.diagnosis.suspects} /> : null}
      {tests.length ? null : (
        <Empty
          image={Empty.PRESENTED_IMAGE_SIMPLE}
          description="No load test yet: log one with the clamp, import a logger’s file, or type numbers as they come."
        />
      )}
      {tests.map((test) => (
        <TestView key={test.id} callId={callId} test={test} mayChange={call.may_change} />
      ))}
    </div>
  )
}

const WAYS = [
  { value: 'clamp' as const, label: 'Clamp' },
  { value: 'csv' as const, label: 'CSV file' },
  { value: 'typed' as const, label: 'Typed' },
]

function NewTest({ callId, data, suspects }: { callId: string; data: CallLoadTests; suspects: readonly { key: string; words: string }[] }) {
  const [way, setWay] = useState<(typeof WAYS)[number]['value']>(data.has_clamp ? 'clamp' : 'csv')
  return (
    <section aria-label="New load test" className="new-test">
      <h2>New load test</h2>
      <Segmented size="large" aria-label="Where the numbers come from" value={way} options={WAYS} onChange={setWay} />
      {way === 'clamp' ? (
        <ClampForm callId={callId} hasClamp={data.has_clamp} suspects={suspects} />
      ) : way === 'csv' ? (
        <FileForm callId={callId} usual={data.usual} />
      ) : (
        <TypedForm callId={callId} usual={data.usual} />
      )}
    </section>
  )
}

const SOURCES: Record<Test['source'], string> = { clamp: 'logging clamp', csv: 'CSV file', typed: 'typed' }

function TestView({ callId, test, mayChange }: { callId: string; test: Test; mayChange: boolean }) {
  const client = useQueryClient()
  const key = loadTests(callId).queryKey
  const path = { path: { call_id: callId, test_id: test.id } }
  const remove = useMutation({
    mutationFn: () => answered(api.DELETE('/api/calls/{call_id}/load-tests/{test_id}', { params: path })),
    onSuccess: (kept) => hold(client, key, kept),
  })
  const stop = useMutation({
    mutationFn: () => answered(api.POST('/api/calls/{call_id}/load-tests/{test_id}/stopped', { params: path })),
    onSuccess: (kept) => hold(client, key, kept),
  })
  const runs = test.state === 'running' || test.state === 'stopping'
  const error = remove.error ?? stop.error
  return (
    <section aria-label={test.title} className="load-test">
      <h2>{test.title}</h2>
      <p className="quiet">
        {new Date(test.begun_at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })} · {SOURCES[test.source]}
        {test.report
          ? ` · ${test.report.samples.toLocaleString()} samples, ${test.report.step_s < 1 ? `${Math.round(1 / test.report.step_s)} a second` : `one in ${test.report.step_s.toFixed(0)} s`}`
          : ''}
      </p>
      {runs ? <Progress percent={Math.round(100 * test.progress)} aria-label={`How far ${test.title} is`} /> : null}
      {test.state === 'failed' ? (
        <p className="problem" role="alert">
          {test.why}
        </p>
      ) : null}
      {runs && test.source === 'csv' ? null : test.state === 'failed' ? null : (
        <Panel what="chart">
          <TraceChart callId={callId} test={test} />
        </Panel>
      )}
      {test.report ? <Findings report={test.report} /> : null}
      <LeftOut rows={test.rows} />
      {error ? (
        <p className="problem" role="alert">
          {messageOf(error, 'It was not changed: try again.')}
        </p>
      ) : null}
      <div className="row-of-buttons">
        {runs && test.source === 'clamp' ? (
          <button type="button" className="plain-button" disabled={!mayChange || stop.isPending} onClick={() => stop.mutate()}>
            Stop
          </button>
        ) : null}
        {test.state === 'ready' ? (
          <a className="plain-button" href={`/api/calls/${callId}/load-tests/${test.id}/csv`} download>
            CSV
          </a>
        ) : null}
        {mayChange && !runs ? (
          <Popconfirm title="Remove this load test?" okText="Remove" cancelText="Keep" onConfirm={() => remove.mutate()}>
            <button type="button" className="plain-button danger">
              Remove
            </button>
          </Popconfirm>
        ) : null}
      </div>
    </section>
  )
}

type Rows = { left_out?: number; bad?: { line: number; why: string }[] } | null

/** Rows of the file that could not be taken, by their lines. */
function LeftOut({ rows }: { rows: Rows }) {
  if (!rows?.left_out) return null
  const bad = rows.bad ?? []
  return (
    <details className="left-out">
      <summary>
        {rows.left_out.toLocaleString()} {rows.left_out === 1 ? 'row was' : 'rows were'} left out
      </summary>
      <ul>
        {bad.map((one) => (
          <li key={one.line}>
            Line {one.line.toLocaleString()}: {one.why}.
          </li>
        ))}
      </ul>
      {bad.length < rows.left_out ? <p className="quiet">And {(rows.left_out - bad.length).toLocaleString()} more.</p> : null}
    </details>
  )
}

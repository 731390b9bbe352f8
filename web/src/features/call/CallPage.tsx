import { useQuery } from '@tanstack/react-query'
import { Button, Form, Input, Popconfirm, Segmented, Select } from 'antd'
import dayjs from 'dayjs'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'

import { messageOf } from '../../api/client'
import { people as peopleQuery, signs as signsQuery, workbench } from '../../api/queries'
import type { CallDetails, Workbench } from '../../api/schema.gen'
import { VISITS } from '../../entities/call/CallRow'
import { ScopeView } from '../../entities/call/ScopeView'
import ShareDialog from '../../entities/call/ShareDialog'
import { useFiling } from '../../entities/call/useFiling'
import { ToldView } from '../../entities/look/ToldView'
import { useEntries } from '../../entities/reading/useEntries'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'

/** The call's head: what was told, how far it is, whose it is, how one works, and what else belongs to it. */
export default function CallPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(workbench(callId))
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the call" />
  return <Head key={callId} data={data} />
}

const MARKS = [
  { value: 'open' as const, label: 'Open' },
  { value: 'waiting' as const, label: 'Waiting' },
  { value: 'done' as const, label: 'Done' },
]

function Head({ data }: { data: Workbench }) {
  const { call, looks } = data
  const me = usePerson()
  const navigate = useNavigate()
  const [sharing, setSharing] = useState(false)
  const { data: signs = [] } = useQuery(signsQuery)
  const entries = useEntries(call.id)
  const mayFile = data.may_change && opensCalls(me)
  const { change, remove } = useFiling(call.id)
  return (
    <div className="page">
      <FrameTitle title={call.complaint}>
        <span className="grow title-words">
          <b>{call.site_name}</b> <span>{call.equipment_name}</span>
        </span>
      </FrameTitle>
      <section aria-label="How far">
        <Segmented
          size="large"
          aria-label="How far the call is"
          disabled={!mayFile || change.isPending}
          value={call.status === 'found' ? 'open' : (call.status ?? 'open')}
          options={MARKS}
          onChange={(status) => change.mutate({ status })}
        />
      </section>
      {call.visit === 'call_back' ? <p className="caution bare">A call-back: the first repair missed the cause. Look wider than what was repaired.</p> : null}
      {call.visit === 'maintenance' ? (
        <p className="quiet">Maintenance: under Prove every joint outside the panel is asked for its volts, its heat and its torque.</p>
      ) : null}
      <Details data={data} mayFile={mayFile} busy={change.isPending} change={(body) => change.mutate(body)} />
      {(change.error ?? remove.error) ? (
        <p className="problem" role="alert">
          {messageOf(change.error ?? remove.error, 'It was not changed: try again.')}
        </p>
      ) : null}
      <section aria-label="Told">
        <ToldView
          open
          signs={signs}
          told={looks.map((one) => one.look).filter((one) => !one.part && !one.zone)}
          busy={entries.busy || !data.may_change}
          look={(found) => entries.add([{ id: crypto.randomUUID(), ...found }], false, () => undefined)}
          withdraw={entries.withdraw}
        />
      </section>
      <section aria-label="How you work">
        <ScopeView callId={call.id} scope={call.scope} seen={data.versions.scope} mayChange={data.may_change} mayOpen={data.may_open_panels} />
      </section>
      <nav className="row-of-buttons" aria-label="For this call">
        {data.may_change ? (
          <Link className="plain-button" to={`/calls/${call.id}/circuit`}>
            Change the circuit
          </Link>
        ) : null}
        <Link className="plain-button" to={`/calls/${call.id}/what-if`}>
          What if …
        </Link>
        <Link className="plain-button" to={`/calls/${call.id}/timing`}>
          Timing
        </Link>
        <Link className="plain-button" to={`/sites/${call.site_id}/feeds`}>
          Which breaker?
        </Link>
        <Link className="plain-button" to={`/equipment/${call.equipment_id}`}>
          Past calls
        </Link>
        <a className="plain-button" href={`/api/calls/${call.id}/job`} download>
          Job file
        </a>
        {data.may_change ? (
          <button type="button" className="plain-button" onClick={() => setSharing(true)}>
            Share{data.shared_with.length ? ` (${data.shared_with.length})` : ''}
          </button>
        ) : null}
        {mayFile ? (
          <Popconfirm
            title="Delete this call?"
            description="It can be put back from the list of calls."
            okText="Delete"
            cancelText="Keep"
            onConfirm={() =>
              void remove.mutateAsync().then(
                (deleted) => navigate('/', { state: { deleted } }),
                () => undefined,
              )
            }
          >
            <button type="button" className="plain-button danger">
              Delete
            </button>
          </Popconfirm>
        ) : null}
      </nav>
      {sharing ? <ShareDialog data={data} close={() => setSharing(false)} /> : null}
    </div>
  )
}

type Fields = { complaint: string; technician_id: string; starts_at: string; visit: NonNullable<CallDetails['visit']> }

function Details({ data: { call }, mayFile, busy, change }: { data: Workbench; mayFile: boolean; busy: boolean; change: (body: CallDetails) => void }) {
  const me = usePerson()
  const everybody = useQuery({ ...peopleQuery, enabled: me.role === 'lead' })
  const [form] = Form.useForm<Fields>()
  const takers = everybody.data?.filter((one) => opensCalls(one) && (one.is_active !== false || one.id === call.technician.id)) ?? [call.technician]
  return (
    <Form<Fields>
      form={form}
      layout="vertical"
      requiredMark={false}
      disabled={!mayFile}
      initialValues={{
        complaint: call.complaint,
        technician_id: call.technician.id,
        starts_at: dayjs(call.starts_at).format('YYYY-MM-DDTHH:mm'),
        visit: call.visit ?? 'service',
      }}
      onFinish={({ complaint, technician_id, starts_at, visit }) =>
        change({ complaint: complaint.trim(), technician_id, starts_at: dayjs(starts_at).toISOString(), visit })
      }
    >
      <Form.Item name="complaint" label="Complaint" rules={[{ required: true, whitespace: true, message: 'Say what is wrong, as you were told it.' }]}>
        <Input maxLength={300} />
      </Form.Item>
      <div className="field-row">
        <Form.Item name="technician_id" label="Technician">
          <Select disabled={me.role !== 'lead'} options={takers.map((one) => ({ value: one.id, label: one.name }))} />
        </Form.Item>
        <Form.Item name="visit" label="Visit">
          <Select options={Object.entries(VISITS).map(([value, label]) => ({ value, label }))} />
        </Form.Item>
        <Form.Item name="starts_at" label="When" rules={[{ required: true, message: 'Say when.' }]}>
          <Input type="datetime-local" className="day-field num" />
        </Form.Item>
      </div>
      <Form.Item shouldUpdate>
        {() => (
          <Button type="primary" htmlType="submit" loading={busy} disabled={!mayFile || !form.isFieldsTouched()}>
            Save
          </Button>
        )}
      </Form.Item>
    </Form>
  )
}

import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Form, Input, Select } from 'antd'
import { useDeferredValue, useState } from 'react'
import { useNavigate } from 'react-router'

import { answered, api, RequestFailed } from '../../api/client'
import { people, readyMade, sites } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import type { Person, ReadyMade } from '../../api/schema.gen'
import { letsPanelsBeOpened, opensCalls, usePerson } from '../../shared/person'
import { Themed } from '../../shared/Themed'
import { type CallForm, newCallFrom, NEW } from './newCall'

export default function NewCallPage() {
  const everybody = useQuery(people)
  const circuits = useQuery(readyMade)
  const failed = everybody.error ?? circuits.error
  const refetch = () => void Promise.all([everybody.refetch(), circuits.refetch()])
  return (
    <div className="page narrow">
      <FrameTitle title="New call" />
      {failed ? <Failed error={failed} retry={refetch} /> : null}
      {everybody.data && circuits.data ? (
        <Themed>
          <CallFields people={everybody.data.filter((one) => one.is_active !== false && opensCalls(one))} circuits={circuits.data} />
        </Themed>
      ) : failed ? null : (
        <Loading what="sites and circuits" />
      )}
    </div>
  )
}

type Fields = { people: Person[]; circuits: ReadyMade[] }

function CallFields({ people, circuits }: Fields) {
  const me = usePerson()
  const [search, setSearch] = useState('')
  const found = useQuery({ ...sites(useDeferredValue(search.trim())), placeholderData: keepPreviousData })
  const navigate = useNavigate()
  const client = useQueryClient()
  const [form] = Form.useForm<CallForm>()
  const [jobFile, setJobFile] = useState<{ name: string; text: string } | null>(null)
  const equipment = Form.useWatch('equipment', form)
  const site = Form.useWatch('site', form)
  const technicianId = Form.useWatch('technician', form)
  const technician = people.find((one) => one.id === technicianId) ?? me
  const open = useMutation({
    mutationFn: (fields: CallForm) => {
      const call = newCallFrom(fields, new Date())
      return jobFile
        ? answered(api.POST('/api/imported-calls', { body: { call, job: jobFile.text } }))
        : answered(api.POST('/api/calls', { body: call }))
    },
    onSuccess: (call) => {
      void client.invalidateQueries({ queryKey: ['calls'] })
      void client.invalidateQueries({ queryKey: ['sites'] })
      void navigate(`/calls/${call.id}`)
    },
  })
  const places = found.data?.sites ?? []
  const [chosen, setChosen] = useState<(typeof places)[number]>()
  const here = chosen?.id === site ? chosen : undefined
  return (
    <Form<CallForm>
      form={form}
      layout="vertical"
      requiredMark={false}
      initialValues={{ technician: me.id, panel: me.may_open_panels, circuit: circuits[0]?.key }}
      onFinish={(fields) => open.mutate(fields)}
      onValuesChange={(changed: Partial<CallForm>) => {
        if (changed.technician)
          form.setFieldValue('panel', people.find((one) => one.id === changed.technician)?.may_open_panels ?? false)
        if (changed.site) {
          const place = places.find((one) => one.id === changed.site)
          setChosen(place)
          form.setFieldValue('equipment', place?.equipment[0]?.id ?? NEW)
        }
      }}
    >
      <Form.Item name="complaint" label="Complaint" rules={[{ required: true, message: 'Say what is wrong, as you were told it.' }]}>
        <Input placeholder="Outdoor unit does not run" autoFocus maxLength={300} />
      </Form.Item>
      <Form.Item name="technician" label="Technician" hidden={me.role !== 'lead'} rules={[{ required: true, message: 'Pick who takes the readings.' }]}>
        <Select options={people.map((one) => ({ value: one.id, label: one.name }))} />
      </Form.Item>
      <Form.Item name="site" label="Site" rules={[{ required: true, message: 'Pick a site, or a new one.' }]}>
        <Select
          placeholder="Pick a site, or type to find it"
          showSearch={{ filterOption: false, searchValue: search, onSearch: setSearch }}
          notFoundContent={found.isFetching ? 'Looking …' : 'No site of that name'}
          options={[
            { value: NEW, label: 'A new site' },
            ...(chosen && !places.includes(chosen) ? [{ value: chosen.id, label: chosen.name }] : []),
            ...places.map((one) => ({ value: one.id, label: one.name })),
          ]}
        />
      </Form.Item>
      {site === NEW ? (
        <div className="field-row">
          <Form.Item name="siteName" label="Name of the site" rules={[{ required: true, message: 'Name the site.' }]}>
            <Input maxLength={80} />
          </Form.Item>
          <Form.Item name="siteAddress" label="Address, if you know it">
            <Input maxLength={160} />
          </Form.Item>
        </div>
      ) : null}
      {here ? (
        <Form.Item name="equipment" label="Equipment">
          <Select
            options={[
              { value: NEW, label: 'New equipment' },
              ...here.equipment.map((one) => ({ value: one.id, label: `${one.name}${one.circuit_name ? ` · ${one.circuit_name}` : ''}` })),
            ]}
          />
        </Form.Item>
      ) : null}
      {site && (site === NEW || !equipment || equipment === NEW) ? (
        <>
          <Form.Item name="equipmentName" label="Name of the equipment" rules={[{ required: true, message: 'Name the equipment.' }]}>
            <Input placeholder="Condenser behind the shop" maxLength={80} />
          </Form.Item>
          {jobFile ? null : (
            <Form.Item name="circuit" label="Its circuit">
              <Select showSearch={{ optionFilterProp: 'label' }} options={circuits.map((one) => ({ value: one.key, label: one.circuit.name }))} />
            </Form.Item>
          )}
        </>
      ) : null}
      <Form.Item name="panel" valuePropName="checked" className="big-check">
        <Checkbox disabled={!letsPanelsBeOpened(me)}>
          The panel may be opened{technician.may_open_panels ? '' : ` (not by ${technician.id === me.id ? 'you' : technician.name}: no panel work granted)`}
        </Checkbox>
      </Form.Item>
      <div className="job-pick">
        <label className="plain-button">
          {jobFile ? `Job file: ${jobFile.name}` : 'Start from a job file …'}
          <input
            type="file"
            accept=".json,application/json"
            className="visually-hidden"
            onChange={(event) => {
              const file = event.target.files?.[0]
              if (file) void file.text().then((text) => setJobFile({ name: file.name, text }))
            }}
          />
        </label>
        {jobFile ? (
          <button type="button" className="link-button" onClick={() => setJobFile(null)}>
            Leave it out
          </button>
        ) : null}
      </div>
      {open.error ? (
        <p className="problem" role="alert">
          {open.error instanceof RequestFailed ? open.error.problem.message : 'The call could not be opened.'}
        </p>
      ) : null}
      <Button type="primary" htmlType="submit" loading={open.isPending} block size="large">
        Open the call
      </Button>
    </Form>
  )
}

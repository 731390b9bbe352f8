import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, ConfigProvider, Form, Input, Select } from 'antd'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { answered, api, RequestFailed } from '../../api/client'
import { readyMade, sites, technicians } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import type { ReadyMade, SiteSummary, Technician } from '../../api/schema.gen'
import { useColours } from '../../shared/colours'
import { themeOf } from '../../theme'
import { type CallForm, newCallFrom, NEW } from './newCall'

export default function NewCallPage() {
  const colours = useColours()
  const people = useQuery(technicians)
  const places = useQuery(sites)
  const circuits = useQuery(readyMade)
  const failed = people.error ?? places.error ?? circuits.error
  const refetch = () => void Promise.all([people.refetch(), places.refetch(), circuits.refetch()])
  return (
    <div className="page narrow">
      <FrameTitle title="New call" />
      {failed ? <Failed error={failed} retry={refetch} /> : null}
      {people.data && places.data && circuits.data ? (
        <ConfigProvider theme={themeOf(colours)}>
          <CallFields people={people.data} places={places.data} circuits={circuits.data} />
        </ConfigProvider>
      ) : failed ? null : (
        <Loading what="sites and circuits" />
      )}
    </div>
  )
}

type Fields = { people: Technician[]; places: SiteSummary[]; circuits: ReadyMade[] }

function CallFields({ people, places, circuits }: Fields) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const [form] = Form.useForm<CallForm>()
  const [jobFile, setJobFile] = useState<{ name: string; text: string } | null>(null)
  const equipment = Form.useWatch('equipment', form)
  const site = Form.useWatch('site', form)
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
  const here = places.find((place) => place.id === site)
  return (
    <Form<CallForm>
      form={form}
      layout="vertical"
      requiredMark={false}
      initialValues={{ technician: people[0]?.id, panel: people[0]?.may_open_panels, circuit: circuits[0]?.key }}
      onFinish={(fields) => open.mutate(fields)}
      onValuesChange={(changed: Partial<CallForm>) => {
        if (changed.technician)
          form.setFieldValue('panel', people.find((one) => one.id === changed.technician)?.may_open_panels ?? false)
        if (changed.site)
          form.setFieldValue('equipment', places.find((one) => one.id === changed.site)?.equipment?.[0]?.id ?? NEW)
      }}
    >
      <Form.Item name="complaint" label="Complaint" rules={[{ required: true, message: 'Say what is wrong, as you were told it.' }]}>
        <Input placeholder="Outdoor unit does not run" autoFocus maxLength={300} />
      </Form.Item>
      <Form.Item name="technician" label="Technician" rules={[{ required: true, message: 'Pick who takes the readings.' }]}>
        <Select options={people.map((one) => ({ value: one.id, label: one.name }))} />
      </Form.Item>
      <Form.Item name="site" label="Site" rules={[{ required: true, message: 'Pick a site, or a new one.' }]}>
        <Select
          placeholder="Pick a site, or type to find it"
          showSearch={{ optionFilterProp: 'label' }}
          options={[{ value: NEW, label: 'A new site' }, ...places.map((one) => ({ value: one.id, label: one.name }))]}
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
              ...(here.equipment ?? []).map((one) => ({ value: one.id, label: `${one.name}${one.circuit_name ? ` · ${one.circuit_name}` : ''}` })),
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
        <Checkbox>The panel may be opened (only if licensed for it)</Checkbox>
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

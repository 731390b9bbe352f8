import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input, Modal, Select, Switch } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { people as peopleQuery } from '../../api/queries'
import type { NewLink, Person } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { ROLES, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'

const ROLE_OPTIONS = Object.entries(ROLES).map(([value, label]) => ({ value, label }))

/** Who works here, what each may do, and the way in for somebody new. */
export default function PeoplePage() {
  if (usePerson().role === 'lead') return <People />
  return (
    <div className="page">
      <FrameTitle title="People" />
      <p className="page-state">Only a lead can do that: ask yours.</p>
    </div>
  )
}

function People() {
  const { data, error, refetch } = useQuery(peopleQuery)
  const [open, setOpen] = useState<Person | null>(null)
  const [link, setLink] = useState<NewLink | null>(null)
  const invite = () => setOpen({ id: crypto.randomUUID(), name: '', role: 'technician', may_open_panels: false, is_active: true })
  return (
    <div className="page">
      <FrameTitle title="People">
        <span className="grow">People</span>
        <button type="button" className="accent-button head-button" onClick={invite}>
          Invite
        </button>
      </FrameTitle>
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the people" /> : null}
      <ul className="people">
        {data?.map((one) => (
          <li key={one.id}>
            <button type="button" onClick={() => setOpen(one)}>
              <b>{one.name}</b>
              <span>{one.role ? ROLES[one.role] : null}</span>
              <span className={one.may_open_panels ? '' : 'quiet'}>{one.may_open_panels ? 'may open panels' : 'no panel work'}</span>
              {one.is_active === false ? <span className="call-stop">may not sign in</span> : null}
            </button>
          </li>
        ))}
      </ul>
      {open ? <PersonForm key={open.id} person={open} isNew={!data?.some((one) => one.id === open.id)} close={() => setOpen(null)} show={setLink} /> : null}
      {link ? <LinkShown link={link} close={() => setLink(null)} /> : null}
    </div>
  )
}

type FormProps = { person: Person; isNew: boolean; close: () => void; show: (link: NewLink) => void }

function PersonForm({ person, isNew, close, show }: FormProps) {
  const me = usePerson()
  const client = useQueryClient()
  const [form] = Form.useForm<Person>()
  const done = (link?: NewLink) => {
    void client.invalidateQueries({ queryKey: peopleQuery.queryKey })
    if (person.id === me.id) void client.invalidateQueries({ queryKey: ['door'] })
    if (link) show(link)
    close()
  }
  const save = useMutation({
    mutationFn: async (told: Partial<Person>) => {
      const body = { ...person, ...told }
      if (isNew) return answered(api.POST('/api/people', { body }))
      await answered(api.PUT('/api/people/{person_id}', { params: { path: { person_id: person.id } }, body }))
      return undefined
    },
    onSuccess: (link) => done(link),
  })
  const newLink = useMutation({
    mutationFn: () => answered(api.POST('/api/people/{person_id}/link', { params: { path: { person_id: person.id } } })),
    onSuccess: (link) => done(link),
  })
  const failed = save.error ?? newLink.error
  return (
    <Modal open title={isNew ? 'Invite somebody' : person.name} onCancel={close} footer={null}>
      <Form form={form} layout="vertical" requiredMark={false} initialValues={person} onFinish={(told: Partial<Person>) => save.mutate(told)}>
        <Form.Item name="name" label="Name" rules={[{ required: true, message: 'Type the name they sign in with.' }]}>
          <Input maxLength={80} autoFocus={isNew} />
        </Form.Item>
        <Form.Item name="role" label="Role">
          <Select options={ROLE_OPTIONS} />
        </Form.Item>
        <Form.Item name="may_open_panels" label="May open panels" valuePropName="checked" extra="Only who is licensed for it, or works under someone who is.">
          <Switch />
        </Form.Item>
        {isNew ? null : (
          <Form.Item name="is_active" label="May sign in" valuePropName="checked">
            <Switch />
          </Form.Item>
        )}
        {failed ? (
          <p className="problem" role="alert">
            {messageOf(failed, 'That did not work: try again.')}
          </p>
        ) : null}
        <p className="row-of-buttons">
          <Button type="primary" htmlType="submit" loading={save.isPending}>
            {isNew ? 'Invite' : 'Keep'}
          </Button>
          {isNew || person.is_active === false ? null : (
            <Button loading={newLink.isPending} onClick={() => newLink.mutate()}>
              New password link
            </Button>
          )}
        </p>
      </Form>
    </Modal>
  )
}

function LinkShown({ link, close }: { link: NewLink; close: () => void }) {
  const [copied, setCopied] = useState(false)
  const address = `${window.location.origin}/join#${link.token}`
  return (
    <Modal open title={`A link for ${link.person.name}`} onCancel={close} footer={null}>
      <p>Give them this link, by hand or by phone. It works once, within {link.lasts_days} days, and is shown only now.</p>
      <p className="link-shown num">{address}</p>
      <p className="row-of-buttons">
        <Button type="primary" onClick={() => void navigator.clipboard.writeText(address).then(() => setCopied(true))}>
          {copied ? 'Copied' : 'Copy'}
        </Button>
        <Button onClick={close}>Done</Button>
      </p>
    </Modal>
  )
}

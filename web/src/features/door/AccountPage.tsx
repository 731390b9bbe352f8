import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input, notification } from 'antd'
import { Link } from 'react-router'

import { answered, api, messageOf, RequestFailed } from '../../api/client'
import { hold } from '../../api/held'
import { door } from '../../api/queries'
import { persister } from '../../offline/pages'
import { chooseColours, useColours } from '../../shared/colours'
import { FrameTitle } from '../../shared/FrameTitle'
import { ROLES, usePerson } from '../../shared/person'

/** Who one is here, and the way out. */
export default function AccountPage() {
  const person = usePerson()
  const other = useColours() === 'dark' ? 'light' : 'dark'
  const leave = useMutation({
    mutationFn: (everywhere: boolean) => answered(api.DELETE('/api/session', { params: { query: { everywhere } } })),
    onSuccess: async () => {
      await persister.removeClient()
      window.location.assign('/')
    },
  })
  return (
    <div className="page narrow">
      <FrameTitle title="You" />
      <h1>{person.name}</h1>
      <p>
        {person.role ? ROLES[person.role] : null}. {person.may_open_panels ? 'You may open panels.' : 'Panel work was not granted to you; a lead grants it.'}
      </p>
      {person.role === 'lead' ? (
        <nav className="page-links" aria-label="For leads">
          <Link to="/people">People</Link>
          <Link to="/log">Who changed what</Link>
        </nav>
      ) : null}
      <p className="row-of-buttons">
        <button type="button" className="plain-button" onClick={() => chooseColours(other)}>
          Use {other} colors
        </button>
        <Link className="plain-button" to="/help">
          Help
        </Link>
      </p>
      <p className="row-of-buttons">
        <button type="button" className="plain-button" disabled={leave.isPending} onClick={() => leave.mutate(false)}>
          Sign out
        </button>
        <button type="button" className="plain-button" disabled={leave.isPending} onClick={() => leave.mutate(true)}>
          Sign out everywhere
        </button>
      </p>
      {leave.error ? <p className="problem">{messageOf(leave.error, 'You are still signed in: try again.')}</p> : null}
      <ChangePassword name={person.name} />
    </div>
  )
}

function ChangePassword({ name }: { name: string }) {
  const client = useQueryClient()
  const [form] = Form.useForm<{ now: string; password: string }>()
  const [notice, holder] = notification.useNotification()
  const change = useMutation({
    mutationFn: (body: { now: string; password: string }) => answered(api.PUT('/api/password', { body })),
    onSuccess: async (next) => {
      form.resetFields()
      notice.success({ title: 'Password changed', description: 'Everywhere else you are signed out.' })
      await hold(client, door.queryKey, next)
    },
  })
  const field = change.error instanceof RequestFailed ? change.error.problem.field : ''
  const help = (one: string) => (field === one ? { validateStatus: 'error' as const, help: messageOf(change.error, '') } : {})
  return (
    <details className="standing">
      {holder}
      <summary>Change your password</summary>
      <Form form={form} layout="vertical" requiredMark={false} onFinish={(told: { now: string; password: string }) => change.mutate(told)}>
        <input type="hidden" name="username" autoComplete="username" value={name} />
        <Form.Item name="now" label="Current password" rules={[{ required: true, message: 'Type the password you sign in with now.' }]} {...help('now')}>
          <Input.Password autoComplete="current-password" maxLength={128} />
        </Form.Item>
        <Form.Item
          name="password"
          label="New password"
          rules={[{ required: true, min: 12, message: 'A password has at least 12 characters.' }]}
          {...help('password')}
        >
          <Input.Password autoComplete="new-password" maxLength={128} />
        </Form.Item>
        {change.error && !['now', 'password'].includes(field) ? <p className="problem">{messageOf(change.error, 'It was not changed: try again.')}</p> : null}
        <Button type="primary" htmlType="submit" loading={change.isPending}>
          Change it
        </Button>
      </Form>
    </details>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input } from 'antd'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { door as doorQuery } from '../../api/queries'
import type { Door, Person } from '../../api/schema.gen'
import { persister } from '../../offline/pages'
import { ROLES } from '../../shared/person'
import { Themed } from '../../shared/Themed'

const MAY: Record<NonNullable<Person['role']>, string> = {
  lead: 'sees every call, grants panel work, invites people',
  technician: 'own calls, and those shared',
  electrician: 'calls that were handed over',
  read_only: 'looks, and changes nothing',
}

/** By name and password, or on the demo by a touch. Whoever was here before finds the page as they left it. */
export default function SignIn({ door, before }: { door: Door; before: Person | null }) {
  const client = useQueryClient()
  const came = async (next: Door) => {
    if (before && next.person?.id !== before.id) {
      // What another was shown stays with them.
      await persister.removeClient()
      window.location.assign('/')
    } else {
      if (!before) client.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'door' })
      await hold(client, doorQuery.queryKey, next)
      void client.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== 'door' })
    }
  }
  const enter = useMutation({
    mutationFn: (body: { name: string; password: string }) => answered(api.POST('/api/session', { body })),
    onSuccess: came,
  })
  const be = useMutation({
    mutationFn: (person_id: string) => answered(api.POST('/api/session/demo', { body: { person_id } })),
    onSuccess: came,
  })
  const failed = enter.error ?? be.error
  return (
    <Themed>
      <title>Sign in · Zesty Copper</title>
      <section className="page narrow door-card" aria-label="Sign in">
        <h1>{before ? 'Who is there?' : 'Sign in'}</h1>
        {before ? <p>You were signed out. Sign in again and go on where you were: nothing that you typed is lost.</p> : null}
        {door.is_set_up ? null : (
          <p className="problem">Nobody can lead yet. Open the link that was printed where Zesty Copper was started: whoever uses it becomes the first lead.</p>
        )}
        {door.demo.length ? (
          <section aria-label="The demo’s people">
            <h2>Demo: sign in as one of these</h2>
            <ul className="demo-people">
              {door.demo.map((one) => (
                <li key={one.id}>
                  <button type="button" disabled={be.isPending} onClick={() => be.mutate(one.id)}>
                    <b>{one.name}</b>
                    <span>{one.role ? `${ROLES[one.role]}: ${MAY[one.role]}` : null}</span>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ) : null}
        {failed ? (
          <p className="problem" role="alert">
            {messageOf(failed, 'That did not work: try again.')}
          </p>
        ) : null}
        {door.demo.length ? <h2>Or with your own password</h2> : null}
        <Form
          layout="vertical"
          requiredMark={false}
          initialValues={{ name: before?.name }}
          onFinish={(told: { name: string; password: string }) => enter.mutate(told)}
        >
          <Form.Item name="name" label="Name" rules={[{ required: true, message: 'Type your name as it is on the list.' }]}>
            <Input autoComplete="username" maxLength={80} autoFocus={door.demo.length === 0} />
          </Form.Item>
          <Form.Item name="password" label="Password" rules={[{ required: true, message: 'Type your password.' }]}>
            <Input.Password autoComplete="current-password" maxLength={128} />
          </Form.Item>
          <Button type="primary" htmlType="submit" block size="large" loading={enter.isPending}>
            Sign in
          </Button>
        </Form>
        <p className="quiet">No password yet, or forgotten? A lead gives you a link.</p>
      </section>
    </Themed>
  )
}

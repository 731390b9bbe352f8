import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Form, Input } from 'antd'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { answered, api, messageOf, RequestFailed } from '../../api/client'
import { hold } from '../../api/held'
import { door } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { ROLES } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'

type Fields = { name?: string; password: string }

/** By a link that is used once: choose a password, and come in. What it holds stands behind the #, which no log sees. */
export default function JoinPage() {
  const [token] = useState(() => window.location.hash.slice(1))
  const { data, error, refetch } = useQuery({
    queryKey: ['link', token],
    queryFn: () => answered(api.POST('/api/link', { body: { token } })),
    enabled: token !== '',
    retry: false,
    staleTime: Infinity,
  })
  return (
    <div className="page narrow door-card">
      <FrameTitle title="Welcome" />
      {token === '' ? <p className="problem">The link is not whole: copy all of it, with what stands behind the #.</p> : null}
      {data ? <Choose token={token} person={data.person} /> : null}
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error && token ? <Loading what="your link" /> : null}
    </div>
  )
}

function Choose({ token, person }: { token: string; person: { name: string; role?: keyof typeof ROLES } | null }) {
  const client = useQueryClient()
  const navigate = useNavigate()
  const use = useMutation({
    mutationFn: (told: Fields) => answered(api.POST('/api/link/use', { body: { token, ...told } })),
    onSuccess: async (next) => {
      client.clear()
      await hold(client, door.queryKey, next)
      void navigate('/', { replace: true })
    },
  })
  const field = use.error instanceof RequestFailed ? use.error.problem.field : ''
  const help = (name: string) => (field === name ? { validateStatus: 'error' as const, help: messageOf(use.error, '') } : {})
  return (
    <>
      <h1>{person ? `Welcome, ${person.name}` : 'Begin as the first lead'}</h1>
      <p>
        {person
          ? `${person.role ? ROLES[person.role] : ''}. Choose a password; you sign in with your name and it.`
          : 'A lead sees every call, invites people, and grants panel work. You sign in with this name and password.'}
      </p>
      {use.error && !['name', 'password'].includes(field) ? (
        <p className="problem" role="alert">
          {messageOf(use.error, 'That did not work: try again.')}
        </p>
      ) : null}
      <Form<Fields> layout="vertical" requiredMark={false} onFinish={(told) => use.mutate(told)}>
        {person ? (
          <input type="hidden" name="username" autoComplete="username" value={person.name} />
        ) : (
          <Form.Item name="name" label="Your name" rules={[{ required: true, message: 'Type your name.' }]} {...help('name')}>
            <Input autoComplete="username" maxLength={80} autoFocus />
          </Form.Item>
        )}
        <Form.Item
          name="password"
          label="Password"
          extra="At least 12 characters. A few words that only you would put together are easy to type and hard to guess."
          rules={[{ required: true, min: 12, message: 'A password has at least 12 characters.' }]}
          {...help('password')}
        >
          <Input.Password autoComplete="new-password" maxLength={128} />
        </Form.Item>
        <Button type="primary" htmlType="submit" block size="large" loading={use.isPending}>
          Come in
        </Button>
      </Form>
    </>
  )
}

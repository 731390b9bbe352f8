import { Button, Form, Input } from 'antd'
import { useState } from 'react'

import { messageOf } from '../../api/client'
import type { NewNames } from './useRename'

type Props = { what: string; now: NewNames; error: Error | null; busy: boolean; save: (names: NewNames, onDone: () => void) => void }

/** A name, and of a site its address; changed in place. */
export function NameForm({ what, now, error, busy, save }: Props) {
  const [open, setOpen] = useState(false)
  if (!open)
    return (
      <div className="named">
        <div>
          <h1>{now.name}</h1>
          {now.address ? <p className="quiet">{now.address}</p> : null}
        </div>
        <button type="button" className="plain-button" onClick={() => setOpen(true)}>
          Rename
        </button>
      </div>
    )
  return (
    <Form<NewNames>
      layout="vertical"
      requiredMark={false}
      initialValues={now}
      onFinish={({ name, address }) => save({ name: name.trim(), ...(address === undefined ? {} : { address: address.trim() }) }, () => setOpen(false))}
    >
      <Form.Item name="name" label={`Name of the ${what}`} rules={[{ required: true, whitespace: true, message: `Name the ${what}.` }]}>
        <Input maxLength={80} autoFocus />
      </Form.Item>
      {now.address === undefined ? null : (
        <Form.Item name="address" label="Address">
          <Input maxLength={160} />
        </Form.Item>
      )}
      {error ? (
        <p className="problem" role="alert">
          {messageOf(error, 'It was not renamed: try again.')}
        </p>
      ) : null}
      <p className="row-of-buttons">
        <Button type="primary" htmlType="submit" loading={busy}>
          Save
        </Button>
        <Button onClick={() => setOpen(false)}>Cancel</Button>
      </p>
    </Form>
  )
}

import { Button, Checkbox, Input } from 'antd'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'

type PutBack = NonNullable<CallRepair['notes']['put_back']>[number]
type Props = { list: readonly PutBack[]; mayChange: boolean; change: (next: (list: readonly PutBack[]) => PutBack[]) => void }

/** What was changed for testing or left there: asked back before the call is closed. */
export function PutBackList({ list, mayChange, change }: Props) {
  const [text, setText] = useState('')
  return (
    <section aria-label="To put back">
      <h2>To put back before the call is closed</h2>
      <ul className="work-list">
        {list.map((one) => (
          <li key={one.id}>
            <Checkbox
              checked={one.done ?? false}
              disabled={!mayChange}
              onChange={(event) => change((all) => all.map((other) => (other.id === one.id ? { ...other, done: event.target.checked } : other)))}
            >
              {one.words}
            </Checkbox>
            <Button
              type="link"
              disabled={!mayChange}
              aria-label={`Remove: ${one.words}`}
              onClick={() => change((all) => all.filter((other) => other.id !== one.id))}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="add-form"
        onSubmit={(event) => {
          event.preventDefault()
          if (!text.trim()) return
          change((all) => [...all, { id: crypto.randomUUID(), words: text.trim(), done: false }])
          setText('')
        }}
      >
        <Input
          aria-label="Setting, mark or old part"
          placeholder="Thermostat in test mode, marks on leads, old parts …"
          maxLength={160}
          disabled={!mayChange}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Button htmlType="submit" disabled={!mayChange || !text.trim()}>
          Note it
        </Button>
      </form>
    </section>
  )
}

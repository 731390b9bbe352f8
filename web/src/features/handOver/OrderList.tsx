import { Button, Input, Segmented } from 'antd'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'

type Order = NonNullable<CallRepair['notes']['orders']>[number]
type Props = { plan: CallRepair['plan']; orders: readonly Order[]; mayChange: boolean; change: (next: (orders: readonly Order[]) => Order[]) => void }

const STATES: { value: NonNullable<Order['state']>; label: string }[] = [
  { value: 'to_order', label: 'To order' },
  { value: 'ordered', label: 'Ordered' },
  { value: 'here', label: 'Here' },
]

const newOrder = (words: string): Order => ({ id: crypto.randomUUID(), words, state: 'to_order' })

/** Parts to bring: what must match is taken over from the repair with one touch. */
export function OrderList({ plan, orders, mayChange, change }: Props) {
  const [words, setWords] = useState('')
  const wanted = plan.items.flatMap((item) => item.matches.map((one) => `${one.what}: ${one.answer}`.slice(0, 200)))
  const missing = [...new Set(wanted)].filter((one) => !orders.some((order) => order.words === one))
  return (
    <section aria-label="Parts to bring">
      <h2>Parts to bring</h2>
      <ul className="order-list">
        {orders.map((order) => (
          <li key={order.id}>
            <span>{order.words}</span>
            <Segmented
              aria-label={`How far: ${order.words}`}
              disabled={!mayChange}
              value={order.state ?? 'to_order'}
              options={STATES}
              onChange={(state) => change((all) => all.map((other) => (other.id === order.id ? { ...other, state } : other)))}
            />
            <Button
              type="link"
              disabled={!mayChange}
              aria-label={`Remove: ${order.words}`}
              onClick={() => change((all) => all.filter((other) => other.id !== order.id))}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
      {missing.length ? (
        <Button size="large" disabled={!mayChange} onClick={() => change((all) => [...all, ...missing.map((words) => newOrder(words))])}>
          Add what the repair must match ({missing.length})
        </Button>
      ) : null}
      <form
        className="add-form"
        onSubmit={(event) => {
          event.preventDefault()
          const text = words.trim()
          if (!text || orders.some((one) => one.words === text)) return
          change((all) => [...all, newOrder(text)])
          setWords('')
        }}
      >
        <Input
          aria-label="Another part"
          placeholder="Another part"
          maxLength={200}
          disabled={!mayChange}
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <Button htmlType="submit" disabled={!mayChange || !words.trim()}>
          Add
        </Button>
      </form>
    </section>
  )
}

import { Button } from 'antd'
import dayjs from 'dayjs'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'
import { TextField } from '../../shared/fields'

type Declined = NonNullable<CallRepair['notes']['declined']>[number]
type Props = { declined: readonly Declined[]; mayChange: boolean; change: (next: (declined: readonly Declined[]) => Declined[]) => void }

const EMPTY = { what: '', by: '', warning: '' }

/** What was advised and declined: by whom, when, and with which warning. */
export function DeclinedList({ declined, mayChange, change }: Props) {
  const [draft, setDraft] = useState(EMPTY)
  const set = (more: Partial<typeof EMPTY>) => setDraft({ ...draft, ...more })
  const whole = Object.values(draft).every((one) => one.trim())
  return (
    <section aria-label="Declined">
      <h2>Advised and declined</h2>
      <ul className="order-list">
        {declined.map((one) => (
          <li key={one.id}>
            <span>
              <b>{one.what}</b> Declined by {one.by}, {dayjs(one.on).format('MMM D, YYYY')}. <span className="quiet">{one.warning}</span>
            </span>
            <Button
              type="link"
              disabled={!mayChange}
              aria-label={`Remove: ${one.what}`}
              onClick={() => change((all) => all.filter((other) => other.id !== one.id))}
            >
              Remove
            </Button>
          </li>
        ))}
      </ul>
      {mayChange ? (
        <form
          className="add-form"
          onSubmit={(event) => {
            event.preventDefault()
            if (!whole) return
            change((all) => [
              ...all,
              { id: crypto.randomUUID(), what: draft.what.trim(), by: draft.by.trim(), warning: draft.warning.trim(), on: dayjs().format('YYYY-MM-DD') },
            ])
            setDraft(EMPTY)
          }}
        >
          <TextField label="What was advised" value={draft.what} set={(what) => set({ what })} most={200} />
          <TextField label="Declined by" value={draft.by} set={(by) => set({ by })} most={80} />
          <TextField label="What they were warned of" value={draft.warning} set={(warning) => set({ warning })} most={300} />
          <Button htmlType="submit" size="large" disabled={!whole}>
            Keep it
          </Button>
        </form>
      ) : null}
    </section>
  )
}

import { Dropdown } from 'antd'
import { useNavigate } from 'react-router'

import type { CallSummary } from '../../api/schema.gen'
import { useFiling } from './useFiling'
import { Themed } from '../../shared/Themed'

type Props = { call: CallSummary; close: () => void; deleted: (call: CallSummary) => void; failed: (error: Error) => void }

/** What may be done with a call from the list, without opening it. */
export default function CallMenu({ call, close, deleted, failed }: Props) {
  const navigate = useNavigate()
  const { change, remove } = useFiling(call.id)
  const marks = (['open', 'waiting', 'done'] as const).filter((one) => one !== call.status && !(one === 'open' && call.status === 'found'))
  return (
    <Themed>
      <Dropdown
        open
        trigger={['click']}
        autoFocus
        onOpenChange={(open) => (open ? undefined : close())}
        menu={{
          items: [
            ...marks.map((one) => ({ key: one, label: { open: 'Open it again', waiting: 'Waiting for parts or people', done: 'Done: close it' }[one] })),
            { key: 'edit', label: 'Edit …' },
            { type: 'divider' as const },
            { key: 'delete', label: 'Delete', danger: true },
          ],
          onClick: ({ key }) => {
            if (key === 'edit') void navigate(`/calls/${call.id}/call`)
            // The row, and this menu with it, is gone as soon as the list is told: the promise outlives them.
            else if (key === 'delete') void remove.mutateAsync().then(deleted, failed).finally(close)
            else
              void change
                .mutateAsync({ status: key as 'open' | 'waiting' | 'done' })
                .catch(failed)
                .finally(close)
          },
        }}
      >
        <button type="button" className="more-button" aria-label="Close the menu">
          ⋯
        </button>
      </Dropdown>
    </Themed>
  )
}

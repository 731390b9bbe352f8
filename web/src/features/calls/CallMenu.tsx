import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Dropdown } from 'antd'
import { useNavigate } from 'react-router'

import { answered, api } from '../../api/client'
import { workbench } from '../../api/queries'
import type { CallDetails, CallSummary } from '../../api/schema.gen'
import { Themed } from '../../shared/Themed'

/** What may be done with a call from the list, without opening it. */
export default function CallMenu({ call, close, deleted }: { call: CallSummary; close: () => void; deleted: (call: CallSummary) => void }) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const changed = () => {
    void client.invalidateQueries({ queryKey: ['calls'] })
    void client.invalidateQueries({ queryKey: workbench(call.id).queryKey })
  }
  const path = { params: { path: { call_id: call.id } } }
  const mark = useMutation({ mutationFn: (body: CallDetails) => answered(api.PATCH('/api/calls/{call_id}', { ...path, body })), onSuccess: changed })
  const remove = useMutation({
    mutationFn: async () => {
      const { response, error } = await api.DELETE('/api/calls/{call_id}', path)
      if (!response.ok) throw new Error(JSON.stringify(error))
    },
    onSuccess: () => {
      changed()
      deleted(call)
    },
  })
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
            else if (key === 'delete') remove.mutate()
            else mark.mutate({ status: key as 'open' | 'waiting' | 'done' })
            close()
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

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Modal } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { people as peopleQuery, workbench } from '../../api/queries'
import type { Workbench } from '../../api/schema.gen'
import { ROLES } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { Themed } from '../../shared/Themed'

/** Who else works on the call; an electrician sees only the calls that were handed over here. */
export default function ShareDialog({ data, close }: { data: Workbench; close: () => void }) {
  const client = useQueryClient()
  const everybody = useQuery(peopleQuery)
  const [chosen, setChosen] = useState<string[]>(data.shared_with)
  const share = useMutation({
    mutationFn: () => answered(api.PUT('/api/calls/{call_id}/people', { params: { path: { call_id: data.call.id } }, body: { people: chosen } })),
    onSuccess: async (next) => {
      await hold(client, workbench(data.call.id).queryKey, next)
      close()
    },
  })
  const others = everybody.data?.filter(
    (one) =>
      one.id !== data.call.technician.id && (one.is_active !== false || chosen.includes(one.id)) && (one.role === 'technician' || one.role === 'electrician'),
  )
  return (
    <Themed>
      <Modal open title="Share this call" onCancel={close} footer={null}>
        <p className="quiet">Leads see every call anyway.</p>
        {everybody.error ? <Failed error={everybody.error} retry={() => void everybody.refetch()} /> : null}
        {!others && !everybody.error ? <Loading what="the people" /> : null}
        {others?.length === 0 ? <p>Nobody else works here yet. A lead invites people.</p> : null}
        <Checkbox.Group
          className="share-list"
          value={chosen}
          onChange={(next) => setChosen(next.map(String))}
          options={(others ?? []).map((one) => ({ value: one.id, label: `${one.name}, ${one.role ? ROLES[one.role].toLowerCase() : ''}` }))}
        />
        {share.error ? (
          <p className="problem" role="alert">
            {messageOf(share.error, 'It was not shared: try again.')}
          </p>
        ) : null}
        <p className="row-of-buttons">
          <Button type="primary" loading={share.isPending} onClick={() => share.mutate()}>
            Share
          </Button>
        </p>
      </Modal>
    </Themed>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { ratings } from '../../api/queries'
import type { CallRatings } from '../../api/schema.gen'
import { Arithmetic } from '../../shared/Arithmetic'

/** Calculations of the bench that were kept to the call. */
export function KeptSums({ callId, kept }: { callId: string; kept: CallRatings['kept'] }) {
  const client = useQueryClient()
  const drop = useMutation({
    mutationFn: (id: string) => answered(api.DELETE('/api/calls/{call_id}/kept/{kept_id}', { params: { path: { call_id: callId, kept_id: id } } })),
    onSuccess: (data) => hold(client, ratings(callId).queryKey, data),
  })
  if (kept.length === 0) return null
  return (
    <details className="standing" open>
      <summary>
        Kept from the bench <span className="num">{kept.length}</span>
      </summary>
      <dl className="wanted">
        {kept.map((one) => (
          <div key={one.kept.id}>
            <dt>{one.label}</dt>
            <dd>
              <b>{one.answer?.words ?? 'This can no longer be calculated.'}</b>
              <span className="quiet">{one.inputs}</span>
              {one.answer ? (
                <details>
                  <summary className="quiet">How</summary>
                  <Arithmetic worked={one.answer.worked} />
                </details>
              ) : null}
              <Button type="link" disabled={drop.isPending} onClick={() => drop.mutate(one.kept.id)} aria-label={`Remove: ${one.label}`}>
                Remove
              </Button>
            </dd>
          </div>
        ))}
      </dl>
    </details>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'

import { answered, api } from '../../api/client'
import { workbench } from '../../api/queries'
import type { CallDetails, CallSummary } from '../../api/schema.gen'

/** What may be done with a call as a whole: its head changed, taken off the list, and put back. */
export function useFiling(callId: string) {
  const client = useQueryClient()
  const path = { params: { path: { call_id: callId } } }
  const changed = () => {
    void client.invalidateQueries({ queryKey: ['calls'] })
    void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
  }
  const gone = () => void client.invalidateQueries({ queryKey: ['calls'] })
  return {
    change: useMutation({ mutationFn: (body: CallDetails) => answered(api.PATCH('/api/calls/{call_id}', { ...path, body })), onSuccess: changed }),
    remove: useMutation({ mutationFn: (): Promise<CallSummary> => answered(api.DELETE('/api/calls/{call_id}', path)), onSuccess: gone }),
    restore: useMutation({ mutationFn: () => answered(api.POST('/api/calls/{call_id}/restored', path)), onSuccess: changed }),
  }
}

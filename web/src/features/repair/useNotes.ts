import { useMutation, useQueryClient } from '@tanstack/react-query'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { repair, workbench } from '../../api/queries'
import type { CallRepair } from '../../api/schema.gen'

export type Notes = CallRepair['notes']

/** Keeps what is noted about a call's repair and its proof: shown at once, taken back where it is refused. */
export function useNotes(callId: string, data: CallRepair) {
  const client = useQueryClient()
  const key = repair(callId).queryKey
  const mutationKey = ['repair', callId]
  const keep = useMutation({
    mutationKey,
    scope: { id: `repair ${callId}` },
    mutationFn: ({ next, anyway }: { next: Notes; anyway?: boolean }) => {
      const seen = client.getQueryData(key)?.version ?? data.version
      return answered(api.PUT('/api/calls/{call_id}/repair', { params: { path: { call_id: callId }, query: { seen: anyway ? null : seen } }, body: next }))
    },
    onMutate: ({ next }) => {
      // What was asked for before knows nothing of this; nor is what stood before it put back.
      void client.cancelQueries({ queryKey: key }, { revert: false })
      const before = client.getQueryData(key)
      if (before) client.setQueryData(key, { ...before, notes: next })
      return before
    },
    onSuccess: async (kept) => {
      // The stages show how the proof was left.
      client.setQueryData(workbench(callId).queryKey, (page) => page && { ...page, call: { ...page.call, proof: kept.call.proof, not_proven: kept.call.not_proven, return_on: kept.call.return_on } })
      // What was ticked meanwhile is on its way, and stays as it is shown.
      const shown = client.getQueryData(key)
      const more = client.isMutating({ mutationKey }) > 1
      await hold(client, key, more && shown ? { ...kept, notes: shown.notes } : kept)
    },
    onError: (_error, _told, before) => before && client.setQueryData(key, before),
  })
  return {
    keep,
    /** Changes some of the notes, as they stand when it is sent. */
    change: (more: Partial<Notes>) => keep.mutate({ next: { ...(client.getQueryData(key) ?? data).notes, ...more } }),
    clash: {
      error: keep.error,
      busy: keep.isPending,
      seeTheirs: () => void client.invalidateQueries({ queryKey: key }).then(keep.reset),
      keepMine: () => keep.variables && keep.mutate({ next: keep.variables.next, anyway: true }),
    },
  }
}

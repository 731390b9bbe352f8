import { useMutation, useQueryClient } from '@tanstack/react-query'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { outlives } from '../../api/leaving'
import { repair, workbench } from '../../api/queries'
import type { CallRepair, FieldChange } from '../../api/schema.gen'
import { changesBetween, inverseOf, withChange } from './fieldChanges'

export type Notes = CallRepair['notes']

/** Keeps what is noted about a call's repair and its proof: shown at once, taken back where it is refused. */
export function useNotes(callId: string, data: CallRepair) {
  const client = useQueryClient()
  const key = repair(callId).queryKey
  const mutationKey = ['repair', callId]
  /** Shows the notes with some fields changed. */
  const show = (changes: readonly FieldChange[]) =>
    client.setQueryData(key, (page: CallRepair | undefined) => page && { ...page, notes: changes.reduce(withChange, page.notes) })
  const keep = useMutation({
    mutationKey,
    scope: { id: `repair ${callId}` },
    mutationFn: ({ changes, anyway }: { changes: FieldChange[]; anyway?: boolean }) =>
      answered(
        api.PATCH('/api/calls/{call_id}/repair', { params: { path: { call_id: callId }, query: { anyway } }, body: { changes }, keepalive: outlives(changes) }),
      ),
    onSuccess: async (kept) => {
      // The stages show how the proof was left.
      client.setQueryData(
        workbench(callId).queryKey,
        (page) => page && { ...page, call: { ...page.call, proof: kept.call.proof, not_proven: kept.call.not_proven, return_on: kept.call.return_on } },
      )
      // What was changed meanwhile is on its way, and stays as it is shown.
      const shown = client.getQueryData(key)
      const more = client.isMutating({ mutationKey }) > 1
      await hold(client, key, more && shown ? { ...kept, notes: shown.notes } : kept)
    },
    onError: (_error, { changes }) => show(inverseOf(changes)),
  })
  return {
    keep,
    /** Changes the notes as they stand now, however old the page is that asks for it; only what differs is sent. */
    change: (next: (notes: Notes) => Notes, refused?: () => void) => {
      const page = client.getQueryData(key) ?? data
      const changes = changesBetween(page.notes, next(page.notes))
      if (!changes.length) return
      // What was asked for before knows nothing of this; nor is what stood before it put back.
      void client.cancelQueries({ queryKey: key }, { revert: false })
      show(changes)
      keep.mutateAsync({ changes }).catch(() => refused?.())
    },
    clash: {
      error: keep.error,
      busy: keep.isPending,
      seeTheirs: () => void client.invalidateQueries({ queryKey: key }).then(keep.reset),
      keepMine: () => {
        if (!keep.variables) return
        show(keep.variables.changes)
        keep.mutate({ changes: keep.variables.changes, anyway: true })
      },
    },
  }
}

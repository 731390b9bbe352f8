import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { feeds as feedsQuery } from '../../api/queries'
import type { Feeds, SiteFeeds } from '../../api/schema.gen'

type Change = { next: Feeds; anyway?: boolean }

/** Keeps a site's map: every change is on file at once, can be undone, and never overwrites what somebody else changed meanwhile. */
export function useSiteMap(siteId: string, data: SiteFeeds) {
  const client = useQueryClient()
  const [undos, setUndos] = useState<Feeds[]>([])
  const keep = useMutation({
    mutationFn: ({ next, anyway }: Change) =>
      answered(api.PUT('/api/sites/{site_id}/feeds', { params: { path: { site_id: siteId }, query: { seen: anyway ? null : data.version } }, body: next })),
    onSuccess: (kept) => hold(client, feedsQuery(siteId).queryKey, kept),
  })
  const change = (next: Feeds, anyway = false) => keep.mutate({ next, anyway }, { onSuccess: () => setUndos([...undos, data.feeds]) })
  const undo = () => {
    const last = undos.at(-1)
    if (last) keep.mutate({ next: last }, { onSuccess: () => setUndos(undos.slice(0, -1)) })
  }
  return {
    change,
    undo,
    canUndo: undos.length > 0 && !keep.isPending,
    busy: keep.isPending,
    error: keep.error,
    seeTheirs: () => void client.invalidateQueries({ queryKey: feedsQuery(siteId).queryKey }).then(keep.reset),
    keepMine: () => keep.variables && change(keep.variables.next, true),
  }
}

import type { Query } from '@tanstack/react-query'
import type { PersistedClient, Persister } from '@tanstack/react-query-persist-client'

import { database } from './database'

/** Kinds of page that open without a signal, as they were last seen. */
const KEPT = new Set<unknown>(['door', 'calls', 'workbench', 'plan', 'ratings', 'repair', 'photos', 'tables', 'bench', 'signs', 'systems', 'complaints', 'ready-made', 'sites', 'site', 'equipment'])
const KEY = 'pages'

export const isKept = (query: Query) => query.state.status === 'success' && KEPT.has(query.queryKey[0]) && !isGrowing(query)

/** A plan is worth keeping once it is whole. */
const isGrowing = (query: Query) => query.queryKey[0] === 'plan' && (query.state.data as { is_done: boolean } | undefined)?.is_done === false

/** Keeps pages in this device's database; whoever signs out leaves none behind. */
export const persister: Persister = {
  persistClient: async (client: PersistedClient) => {
    await (await database()).put('pages', client, KEY)
  },
  restoreClient: async () => (await (await database()).get('pages', KEY)) as PersistedClient | undefined,
  removeClient: async () => {
    await (await database()).delete('pages', KEY)
  },
}

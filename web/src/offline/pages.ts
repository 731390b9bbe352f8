import type { Query } from '@tanstack/react-query'
import type { PersistedClient, Persister } from '@tanstack/react-query-persist-client'

import { isUnreachable } from '../api/client'
import { database } from './database'

/** Kinds of page that open without a signal, as they were last seen. */
const KEPT = new Set<unknown>([
  'door',
  'calls',
  'workbench',
  'plan',
  'ratings',
  'repair',
  'photos',
  'tables',
  'bench',
  'signs',
  'systems',
  'complaints',
  'ready-made',
  'sites',
  'site',
  'equipment',
])
const KEY = 'pages'

export const isKept = (query: Query) => stands(query) && KEPT.has(query.queryKey[0]) && !isGrowing(query)

/** What was fetched stands while nothing but the signal fails; what the server refuses meanwhile is not kept. */
const stands = ({ state }: Query) => state.data !== undefined && (state.status === 'success' || isUnreachable(state.error))

/** A page kept before the device's clock was put back would count as newer than now, and never be fetched again. */
export const isFromTheFuture = ({ state }: Query) => state.dataUpdatedAt > Date.now()

/** A plan is worth keeping once it is whole. */
const isGrowing = (query: Query) => query.queryKey[0] === 'plan' && (query.state.data as { is_done: boolean } | undefined)?.is_done === false

/** Keeps pages in this device's database; whoever signs out leaves none behind. */
export const persister: Persister = {
  persistClient: async (client: PersistedClient) => {
    // Kept as it was when it was last seen: why it could not be fetched anew is of no use later.
    const queries = client.clientState.queries.map((one) => ({
      ...one,
      state: { ...one.state, status: 'success' as const, error: null, fetchFailureReason: null },
    }))
    await (await database()).put('pages', { ...client, clientState: { ...client.clientState, queries } }, KEY)
  },
  restoreClient: async () => (await (await database()).get('pages', KEY)) as PersistedClient | undefined,
  removeClient: async () => {
    await (await database()).delete('pages', KEY)
  },
}

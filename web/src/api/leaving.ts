import type { QueryClient } from '@tanstack/react-query'

import { beforeLeaving } from '../shared/useLeaving'

/** A browser sends no more than 64 KB on after a page is gone, all that is under way together. */
const MOST_OUTLIVING = 30_000

/** Whether a change may outlive the page that makes it; a larger one would be refused for it, and goes the usual way. */
export const outlives = (body: unknown) => JSON.stringify(body).length < MOST_OUTLIVING

let outOfTurn = false

/** Whether what is sent now is sent without waiting for the answer to what went before. */
export const isOutOfTurn = () => outOfTurn

/**
 * Lets nothing go that was typed: where the page is left, all that waits for its turn behind another change is sent at
 * once. What is sent twice, since the page came back after all, changes nothing more.
 */
export function sendBeforeLeaving(client: QueryClient) {
  window.addEventListener('pagehide', () => {
    beforeLeaving()
    outOfTurn = true
    for (const { options, state } of client.getMutationCache().getAll()) {
      if (!options.scope || !options.mutationFn || state.status !== 'pending' || !state.isPaused) continue
      options.mutationFn(state.variables, { client, meta: options.meta, mutationKey: options.mutationKey }).catch(() => undefined)
    }
    outOfTurn = false
  })
  // A phone may end a hidden page without another word.
  document.addEventListener('visibilitychange', () => (document.visibilityState === 'hidden' ? beforeLeaving() : undefined))
}

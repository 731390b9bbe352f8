import type { QueryClient } from '@tanstack/react-query'

import { beforeLeaving } from '../shared/useLeaving'

/** A browser sends no more than 64 KB on after a page is gone, all that is under way together. */
const MOST_OUTLIVING = 30_000

/** Whether a change may outlive the page that makes it; a larger one would be refused for it, and goes the usual way. */
export const outlives = (body: unknown) => JSON.stringify(body).length < MOST_OUTLIVING

/** Says, to the page that comes next in this window, that changes were still on their way. */
const ON_ITS_WAY = 'zesty-on-its-way'
const LOOK_AGAIN_MS = [1000, 3000, 9000, 27_000]

let leaving = false

/** Whether the page is being left: no answer to what was sent before will reach it. */
export const isLeaving = () => leaving

/**
 * Lets nothing go that was typed: where the page is left, all that waits for its turn behind another change is sent at
 * once. What is sent twice, since the page came back after all, changes nothing more. The page that comes next may ask
 * before it has arrived, and looks again.
 */
export function sendBeforeLeaving(client: QueryClient) {
  window.addEventListener('pagehide', () => {
    leaving = true
    beforeLeaving()
    for (const { options, state } of client.getMutationCache().getAll()) {
      if (!options.scope || !options.mutationFn || state.status !== 'pending' || !state.isPaused) continue
      options.mutationFn(state.variables, { client, meta: options.meta, mutationKey: options.mutationKey }).catch(() => undefined)
    }
    if (client.isMutating()) sessionStorage.setItem(ON_ITS_WAY, 'yes')
  })
  window.addEventListener('pageshow', () => {
    leaving = false
  })
  if (sessionStorage.getItem(ON_ITS_WAY)) {
    sessionStorage.removeItem(ON_ITS_WAY)
    for (const later of LOOK_AGAIN_MS) setTimeout(() => void (client.isMutating() || client.invalidateQueries()), later)
  }
  // A phone may end a hidden page without another word.
  document.addEventListener('visibilitychange', () => (document.visibilityState === 'hidden' ? beforeLeaving() : undefined))
}

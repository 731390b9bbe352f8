import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { signs, workbench } from '../api/queries'
import type { CallSummary } from '../api/schema.gen'
import { PIECE_MS, plan, standsOf } from './plan'

const MOST = 8
const FRESH_MS = 10 * 60_000

/** How many of the calls to take along are ready for it. */
export type TakenAlong = { ready: number; of: number }

/** Fetches the first open calls of a list and their plans beforehand, one after the other, so that they go on without a signal. */
export function useTakeAlong(calls: readonly CallSummary[] | undefined): TakenAlong {
  const [ready, setReady] = useState(0)
  const client = useQueryClient()
  const ids = (calls ?? [])
    .filter((one) => one.status !== 'done')
    .slice(0, MOST)
    .map((one) => one.id)
    .join()
  useEffect(() => {
    let on = true
    const fetchAll = async () => {
      await client.prefetchQuery(signs)
      for (const id of ids.split(',').filter(Boolean)) {
        if (!on || !navigator.onLine) return
        await client.prefetchQuery({ ...workbench(id), staleTime: FRESH_MS })
      }
      let done = 0
      for (const id of ids.split(',').filter(Boolean)) {
        const page = client.getQueryData(workbench(id).queryKey)
        if (!page) continue
        const wanted = plan(id, standsOf(page))
        while (on && navigator.onLine) {
          const taken = await client.fetchQuery({ ...wanted, staleTime: client.getQueryData(wanted.queryKey)?.is_done ? Infinity : 0 })
          if (taken.is_done) break
          await new Promise((later) => setTimeout(later, PIECE_MS))
        }
        if (!on) return
        done += 1
        setReady(done)
      }
    }
    // What fails is fetched when it is asked for.
    const later = setTimeout(() => void fetchAll().catch(() => undefined), 500)
    return () => {
      on = false
      clearTimeout(later)
    }
  }, [client, ids])
  return { ready, of: ids.split(',').filter(Boolean).length }
}

import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { signs, workbench } from '../api/queries'
import type { CallSummary } from '../api/schema.gen'

const MOST = 8
const FRESH_MS = 10 * 60_000

/** Fetches the first open calls of a list beforehand, one after the other, so that they open without a signal. */
export function useTakeAlong(calls: readonly CallSummary[] | undefined) {
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
    }
    const later = setTimeout(() => void fetchAll(), 500)
    return () => {
      on = false
      clearTimeout(later)
    }
  }, [client, ids])
}

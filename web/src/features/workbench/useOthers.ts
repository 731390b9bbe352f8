import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'

import { stamp, workbench } from '../../api/queries'

/** Fetches the call again when somebody else, or another window, has changed it. */
export function useOthers(callId: string) {
  const client = useQueryClient()
  const { data } = useQuery(stamp(callId))
  const before = useRef<string>(undefined)
  useEffect(() => {
    if (data === undefined) return
    if (before.current !== undefined && before.current !== data) void client.invalidateQueries({ queryKey: workbench(callId).queryKey })
    before.current = data
  }, [callId, client, data])
}

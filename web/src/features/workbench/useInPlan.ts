import { useQuery } from '@tanstack/react-query'

import type { Workbench } from '../../api/schema.gen'
import { useHasSignal, useUnsent } from '../../offline/outbox'
import { followed, type InPlan, plan, PIECE_MS, standsOf } from '../../offline/plan'
import { usePerson } from '../../shared/person'

/** Has the call's plan worked out while there is a signal; without one, where the call stands in it. */
export function useInPlan(data: Workbench): InPlan | null {
  const me = usePerson()
  const waiting = useUnsent().filter((one) => one.callId === data.call.id && one.personId === me.id && !one.problem)
  const hasSignal = useHasSignal()
  const { data: taken } = useQuery({
    ...plan(data.call.id, standsOf(data)),
    enabled: !data.diagnosis.planning && data.call.status !== 'done',
    refetchInterval: ({ state }) => (state.data?.is_done || state.error || !navigator.onLine ? false : PIECE_MS),
  })
  if (hasSignal || !waiting.length || !taken?.is_done) return null
  return followed(taken, waiting)
}

import { useQuery } from '@tanstack/react-query'
import { type ComponentType } from 'react'
import { useParams } from 'react-router'

import { repair } from '../../api/queries'
import type { CallRepair } from '../../api/schema.gen'
import { Failed, Loading } from '../../shared/states'

export type Repaired = { callId: string; data: CallRepair }

/** A page about what is done in a call: shown once that is known, begun anew for each call. */
export function WithRepair({ what, Page }: { what: string; Page: ComponentType<Repaired> }) {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(repair(callId))
  if (data) return <Page key={callId} callId={callId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what={what} />
}

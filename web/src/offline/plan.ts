import { queryOptions } from '@tanstack/react-query'

import { answered, api } from '../api/client'
import type { Measurement, TakeAlong, TakenNode, Workbench } from '../api/schema.gen'
import type { Unsent } from './database'

/** How often a plan that still grows is asked for. */
export const PIECE_MS = 2500

/** What a plan is of: another reading, circuit or scope is another plan. */
export const standsOf = ({ readings, looks, versions }: Workbench) =>
  [versions.circuit, versions.scope, ...readings.map((one) => one.entry_id), ...looks.map((one) => one.entry_id)].join()

export const plan = (callId: string, stands: string) =>
  queryOptions({
    queryKey: ['plan', callId, stands],
    queryFn: () => answered(api.GET('/api/calls/{call_id}/plan', { params: { path: { call_id: callId } } })),
    staleTime: Infinity,
    retry: false,
  })

/** Where a call stands in its plan after what was said without a signal: an answer, or that it was left. */
export type InPlan = { node: TakenNode; left: boolean }

/** Follows what was said, in its order, through the plan; the bands and what they mean are the core's. */
export function followed({ nodes }: TakeAlong, said: readonly Unsent[]): InPlan | null {
  let node = nodes[0]
  if (!node) return null
  for (const { entries } of said) {
    const to = stepOf(node, entries)
    const next = to === null ? undefined : nodes[to]
    if (!next) return { node, left: true }
    node = next
  }
  return { node, left: false }
}

function stepOf(node: TakenNode, entries: Unsent['entries']): number | null {
  const { test } = node
  if (!test || entries.some((one) => one.action !== 'add')) return null
  const said = entries.flatMap((one) => (one.reading ? [one.reading] : []))
  const { look } = test
  if (look) {
    const [seen] = said
    if (!seen || !('sign' in seen) || seen.sign !== look.sign) return null
    const place = look.places.findIndex((one) => one.part === seen.part && one.leg === (seen.leg ?? null))
    const found = seen.seen ? place : null
    return node.branches.find((one) => one.ranges.length === 0 && (one.found ?? null) === found)?.to ?? null
  }
  const values = test.measurements.map((wanted) => said.find((one) => 'measurement' in one && same(one.measurement, wanted)))
  if (said.length !== values.length) return null
  return branchFor(
    node,
    values.map((one) => (one && 'value' in one ? one.value : NaN)),
  )
}

/** The branch whose bands hold all numbers; no two hold the same. */
export const branchFor = ({ branches }: Pick<TakenNode, 'branches'>, values: readonly number[]): number | null =>
  branches.find(
    ({ ranges }) =>
      ranges.length === values.length && ranges.length > 0 && ranges.every(({ low, high }, i) => low <= (values[i] ?? NaN) && (values[i] ?? NaN) <= high),
  )?.to ?? null

const text = ({ place, meter, open_switches, hands }: Measurement) =>
  JSON.stringify(
    [
      place,
      meter ?? 'hi_z',
      [...(open_switches ?? [])].sort(),
      Object.entries(hands ?? {})
        .map(([field, ids]) => [field, [...ids].sort()])
        .filter(([, ids]) => ids?.length),
    ],
    sorted,
  )

/** Keys in one order, so that what says the same is the same text. */
function sorted(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value
  return Object.fromEntries(Object.entries(value).sort(([a], [b]) => a.localeCompare(b)))
}

const same = (a: Measurement, b: Measurement) => text(a) === text(b)

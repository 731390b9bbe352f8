import type { CallSummary } from '../../api/schema.gen'

const clock = new Intl.DateTimeFormat(undefined, { hour: 'numeric', minute: '2-digit' })
const dayName = new Intl.DateTimeFormat(undefined, { weekday: 'long', day: 'numeric', month: 'long' })

/** Time of day in local time. */
export const clockOf = (iso: string) => clock.format(new Date(iso))

/** Calls under their local day, today first, then the other days from the latest to the earliest; within a day the newest first. */
export function byDay(calls: readonly CallSummary[], now: Date): { day: string; list: CallSummary[] }[] {
  const days = new Map<string, CallSummary[]>()
  for (const call of [...calls].sort((a, b) => b.starts_at.localeCompare(a.starts_at))) {
    const key = localKey(new Date(call.starts_at))
    days.set(key, [...(days.get(key) ?? []), call])
  }
  const today = localKey(now)
  const rank = (key: string) => (key === today ? '9999' : key)
  return [...days.entries()]
    .sort(([a], [b]) => rank(b).localeCompare(rank(a)))
    .map(([key, list]) => ({ day: key === today ? 'Today' : dayName.format(new Date(list[0]?.starts_at ?? now)), list }))
}

function localKey(date: Date): string {
  const two = (n: number) => String(n).padStart(2, '0')
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`
}

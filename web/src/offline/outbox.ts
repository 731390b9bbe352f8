import { useSyncExternalStore } from 'react'

import { answered, api, isSignedOut, isUnreachable, RequestFailed } from '../api/client'
import type { NewEntry, Workbench } from '../api/schema.gen'
import { database, type Unsent } from './database'

/** What waits to be sent, in the order in which it was said; the same in every window. */
let waiting: readonly Unsent[] = []
const listeners = new Set<() => void>()
const windows = new BroadcastChannel('zesty-outbox')

async function reload() {
  waiting = await (await database()).getAll('unsent')
  listeners.forEach((told) => told())
}

async function changed() {
  await reload()
  windows.postMessage('changed')
}

windows.onmessage = () => void reload()
void reload()

const subscribe = (told: () => void) => {
  listeners.add(told)
  return () => listeners.delete(told)
}

/** Everything that waits to be sent. */
export const useUnsent = () => useSyncExternalStore(subscribe, () => waiting)

/** Whether something of a call waits: what is said next must wait behind it. */
export const waitsFor = (callId: string) => waiting.some((one) => one.callId === callId)

/** Keeps what was said until there is a signal. */
export async function keep(callId: string, personId: string, entries: NewEntry[]) {
  await (await database()).add('unsent', { callId, personId, entries, at: new Date().toISOString(), problem: '', asks: false })
  await changed()
}

/** Takes back what was never sent. */
export async function discard(id: number) {
  await (await database()).delete('unsent', id)
  await changed()
}

/** Says that a strange value is meant, so that it is sent with the rest. */
export async function standBy(one: Unsent) {
  await (await database()).put('unsent', { ...one, entries: one.entries.map((entry) => ({ ...entry, confirmed: true })), problem: '', asks: false })
  await changed()
}

/**
 * Sends what waits, call by call and in its order, in one window at a time. What is refused stays, with the reason, and what
 * was said later in the same call stays behind it.
 */
export async function sendAll(personId: string, took: (callId: string, page: Workbench) => void) {
  await navigator.locks.request('zesty-outbox', { ifAvailable: true }, async (lock) => {
    if (!lock) return
    await reload()
    const stuck = new Set<string>()
    for (const one of waiting) {
      if (one.personId !== personId || stuck.has(one.callId)) continue
      if (one.problem) {
        stuck.add(one.callId)
        continue
      }
      try {
        const page = await answered(api.POST('/api/calls/{call_id}/entry-lists', { params: { path: { call_id: one.callId } }, body: { entries: one.entries } }))
        await (await database()).delete('unsent', one.id ?? 0)
        took(one.callId, page)
      } catch (error) {
        if (!(error instanceof RequestFailed) || isUnreachable(error) || isSignedOut(error)) break
        stuck.add(one.callId)
        await (await database()).put('unsent', { ...one, problem: error.problem.message, asks: error.problem.code === 'strange_value' })
      }
    }
    await changed()
  })
}

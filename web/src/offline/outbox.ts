import { useSyncExternalStore } from 'react'

import { answered, api, isMomentary, isSignedOut, isUnreachable, type Problem, RequestFailed } from '../api/client'
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

/** Whether something of a call is still to be sent: what is said next waits behind it. What was refused holds nothing up. */
export const waitsFor = (callId: string) => waiting.some((one) => one.callId === callId && !one.problem)

const fresh = (callId: string, personId: string) => ({ callId, personId, at: new Date().toISOString(), problem: '', asks: false })

/** Keeps what was said until it is sent. */
export async function keep(callId: string, personId: string, entries: NewEntry[], line = '') {
  await (await database()).add('unsent', { ...fresh(callId, personId), entries, line })
  await changed()
}

/** Keeps a line as it was typed, until it is read and sent. */
export async function keepLine(callId: string, personId: string, line: string) {
  await (await database()).add('unsent', { ...fresh(callId, personId), entries: [], line, lineId: crypto.randomUUID() })
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

/** One call's entries go one after the other, whichever way they take. */
export const inTurn = <T>(callId: string, send: () => Promise<T>): Promise<T> => navigator.locks.request(`zesty-call ${callId}`, send) as Promise<T>

const sentListeners = new Set<(callId: string, entries: readonly NewEntry[]) => void>()

/** Hears of what waited here and is sent now; gives what ends the hearing. */
export function onSent(hear: (callId: string, entries: readonly NewEntry[]) => void) {
  sentListeners.add(hear)
  return () => void sentListeners.delete(hear)
}

let hasSignal = true

/** Notes whether the server answered. */
export function noteSignal(answers: boolean) {
  if (hasSignal === answers) return
  hasSignal = answers
  listeners.forEach((told) => told())
}

/** Whether the server answered when it was last asked to take something. */
export const useHasSignal = () => useSyncExternalStore(subscribe, () => hasSignal)

let isAsked = false

/**
 * Sends what waits, in its order, in one window at a time. What is refused stands aside with its reason, as does what was said
 * about it; all else goes on.
 */
export async function sendAll(personId: string, took: (callId: string, page: Workbench) => Promise<void>) {
  // One that waits for its turn does for all: it looks anew at what there is.
  if (isAsked) return
  isAsked = true
  await navigator.locks.request('zesty-outbox', async () => {
    isAsked = false
    for (;;) {
      await reload()
      const refused = new Set(waiting.filter((one) => one.problem).flatMap((one) => one.entries.map((entry) => entry.reading_id)))
      const next = waiting.find((one) => one.personId === personId && !one.problem && !one.entries.some((entry) => refused.has(entry.reading_id)))
      if (!next) return
      try {
        const sent = await inTurn(next.callId, () => sendOne(next))
        await (await database()).delete('unsent', next.id ?? 0)
        await changed()
        noteSignal(true)
        await took(next.callId, sent.page)
        sentListeners.forEach((hear) => hear(next.callId, sent.entries))
      } catch (error) {
        noteSignal(!isUnreachable(error))
        if (!(error instanceof RequestFailed) || isMomentary(error) || isSignedOut(error)) return
        await (await database()).put('unsent', { ...next, ...why(error.problem) })
        await changed()
      }
    }
  })
}

const why = (problem: Problem) => ({ problem: problem.message, asks: problem.code === 'strange_value' })

async function sendOne(one: Unsent): Promise<{ page: Workbench; entries: NewEntry[] }> {
  const entries = one.line && !one.entries.length ? [await entryOf(one)] : one.entries
  // Kept as read, so that its value can be asked about, and so that sending it again changes nothing.
  if (!one.entries.length) await (await database()).put('unsent', { ...one, entries })
  one.entries = entries
  const page = await answered(
    api.POST('/api/calls/{call_id}/entry-lists', { params: { path: { call_id: one.callId }, query: { first: true } }, body: { entries } }),
  )
  return { page, entries }
}

/** Reads a line; one that is not understood is refused with what it was understood as. */
async function entryOf({ callId, line = '', lineId = crypto.randomUUID() }: Unsent): Promise<NewEntry> {
  const { said, words } = await answered(api.POST('/api/calls/{call_id}/line', { params: { path: { call_id: callId } }, body: { text: line, id: lineId } }))
  if (!said) throw new RequestFailed({ code: 'not_read', message: words, field: 'line', details: {} })
  return { id: crypto.randomUUID(), action: 'add', reading_id: lineId, reading: { ...said, id: lineId }, confirmed: false }
}

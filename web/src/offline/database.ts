import { type DBSchema, type IDBPDatabase, openDB } from 'idb'

import type { NewEntry } from '../api/schema.gen'

/** What was said while there was no signal: entries of one go, and what became of sending them. */
export type Unsent = {
  id?: number
  callId: string
  /** Whose they are: somebody else who signs in here neither sees nor sends them. */
  personId: string
  /** None yet for a line that was not read. */
  entries: NewEntry[]
  /** What was typed in one line, and the id of the reading that it becomes. */
  line?: string
  lineId?: string
  at: string
  /** Why the server refused them, and whether it only asks; empty while they were not sent. */
  problem: string
  asks: boolean
}

interface Kept extends DBSchema {
  unsent: { key: number; value: Unsent }
  pages: { key: string; value: unknown }
}

let opened: Promise<IDBPDatabase<Kept>> | null = null

/** What this device keeps: pages as they were last seen, and what waits to be sent. */
export function database(): Promise<IDBPDatabase<Kept>> {
  opened ??= openDB<Kept>('zesty-copper', 1, {
    upgrade(kept) {
      kept.createObjectStore('unsent', { keyPath: 'id', autoIncrement: true })
      kept.createObjectStore('pages')
    },
  })
  return opened
}

import { type Dispatch, type SetStateAction, useLayoutEffect, useState } from 'react'

/** What was kept in this window under a key; none where nothing was, or where it can no longer be read. */
export function keptIn<T>(key: string): T | null {
  try {
    return JSON.parse(sessionStorage.getItem(key) ?? 'null') as T | null
  } catch {
    return null
  }
}

export const keepIn = (key: string, value: unknown) => (value === null ? sessionStorage.removeItem(key) : sessionStorage.setItem(key, JSON.stringify(value)))

/** State that survives leaving the page and loading it anew, in this window alone. */
export function useKept<T>(key: string, initial: T): [T, Dispatch<SetStateAction<T>>] {
  const [value, setValue] = useState<T>(() => keptIn<T>(key) ?? initial)
  // Before it is painted: what is seen is kept, however soon the page is loaded anew.
  useLayoutEffect(() => keepIn(key, value), [key, value])
  return [value, setValue]
}

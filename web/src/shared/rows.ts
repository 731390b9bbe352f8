let last = 0
const keys = new WeakMap<object, number>()

/** The key of a row, which goes with it whatever is removed before it and however its fields change. */
export function rowKey(row: object): number {
  const key = keys.get(row) ?? (last += 1)
  keys.set(row, key)
  return key
}

/** The list with one of its rows changed; the row keeps its key. */
export function changed<T extends object>(list: readonly T[], at: number, more: Partial<T>): T[] {
  return list.map((row, i) => {
    if (i !== at) return row
    const next = { ...row, ...more }
    keys.set(next, rowKey(row))
    return next
  })
}

/** The list without one of its rows. */
export const without = <T>(list: readonly T[], at: number): T[] => list.filter((_, i) => i !== at)

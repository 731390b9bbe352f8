import type { FieldChange } from '../../api/schema.gen'

type Json = FieldChange['was']
type Fields = Record<string, Json>

const isFields = (value: Json): value is Fields => typeof value === 'object' && value !== null && !Array.isArray(value)
const keyOf = (row: Json): string | null => (isFields(row) && typeof row.id === 'string' ? row.id : null)

/** A list as fields: rows by their id, texts as true; null where its items cannot be told apart. */
function fieldsOf(list: readonly Json[]): Fields | null {
  const pairs = list.map((item) => (typeof item === 'string' ? ([item, true] as const) : ([keyOf(item), item] as const)))
  return pairs.every(([key]) => key !== null) ? Object.fromEntries(pairs as [string, Json][]) : null
}

function asFields(value: Json): Fields | null {
  if (Array.isArray(value)) return fieldsOf(value)
  return isFields(value) ? value : null
}

/** The fields in which two values differ, each with what it was and what it is; `null` is what is not there. */
export function changesBetween(was: Json, now: Json, path: string[] = []): FieldChange[] {
  if (JSON.stringify(was) === JSON.stringify(now)) return []
  const [before, after] = [asFields(was), asFields(now)]
  // A row is added or removed whole.
  if (!before || !after) return [{ path, was, now }]
  return [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((key) => changesBetween(before[key] ?? null, after[key] ?? null, [...path, key]))
}

/** What takes changes back, the last first. */
export const inverseOf = (changes: readonly FieldChange[]): FieldChange[] => changes.map(({ path, was, now }) => ({ path, was: now, now: was })).reverse()

/** A value with some of its fields changed, as the server changes what it holds. */
export function withChange<T>(value: T, { path, now }: FieldChange): T {
  return changed(value as Json, path, now ?? null) as T
}

function changed(value: Json, [key, ...rest]: readonly string[], now: Json): Json {
  if (key === undefined) return now
  if (Array.isArray(value)) {
    if (now === true && !rest.length) return value.includes(key) ? value : [...value, key]
    const at = value.findIndex((item) => item === key || keyOf(item) === key)
    const row = changed(value[at] ?? null, rest, now)
    if (at < 0) return row === null ? value : [...value, row]
    return row === null ? value.filter((_, i) => i !== at) : value.map((item, i) => (i === at ? row : item))
  }
  const fields = isFields(value) ? value : {}
  const field = changed(fields[key] ?? null, rest, now)
  const others = Object.entries(fields).filter(([name]) => name !== key)
  return Object.fromEntries(field === null ? others : [...others, [key, field]])
}

import type { Range } from '../../api/schema.gen'

/** A probability as people say it: never 100 % and never 0 %. */
export function percent(probability: number): string {
  if (probability >= 0.995) return '>99%'
  if (probability < 0.005) return '<1%'
  return `${Math.round(probability * 100)}%`
}

/** A predicted range with its unit; to the volt where tenths would only pretend. */
export function rangeWords({ low, high }: Range, unit: string): string {
  const say = (value: number) => (value >= 20 ? String(Math.round(value)) : String(Math.round(value * 10) / 10))
  const [from, to] = [say(low), say(high)]
  return from === to ? `${from} ${unit}` : `${from}–${to} ${unit}`
}

export const rangesWords = (ranges: readonly Range[], unit: string) => ranges.map((one) => rangeWords(one, unit)).join(' or ')

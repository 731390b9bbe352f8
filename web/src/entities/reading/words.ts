import { OL_OHM, UNITS } from '../../api/observations.gen'
import type { Circuit, Range, Reading } from '../../api/schema.gen'

/** A probability as people say it: never 100 % and never 0 %. */
export function percent(probability: number): string {
  if (probability >= 0.995) return '>99%'
  if (probability < 0.005) return '<1%'
  return `${Math.round(probability * 100)}%`
}

type Said = { sign: string; after: string; values: readonly { value: number; words: string }[] }

/** How a unit is said; one that is not read on a circuit stands as it is. */
const saidIn = (unit: string): Said => (UNITS as Record<string, Said>)[unit] ?? { sign: '', after: unit, values: [] }

/** A value with its unit, or in words where it is no number. */
export function valueWords(value: number, unit: string): string {
  const { after, values } = saidIn(unit)
  if (values.length) return values.reduce((best, one) => (Math.abs(one.value - value) < Math.abs(best.value - value) ? one : best)).words
  return unit === 'ohm' ? ohmWords(value) : `${value} ${after}`
}

/** A reading's number with its unit. */
export const unitWords = ({ value, unit }: Pick<Reading, 'value' | 'unit' | 'measurement'>) => valueWords(value, unit)

/** A resistance as a meter shows it. */
function ohmWords(ohm: number): string {
  if (ohm === OL_OHM.ohm) return 'OL'
  if (ohm >= OL_OHM.insulation) return 'over 200 MΩ'
  const [size, sign] = ohm >= 1e6 ? [1e6, 'MΩ'] : ohm >= 1e3 ? [1e3, 'kΩ'] : [1, 'Ω']
  return `${Number((ohm / size).toPrecision(3))} ${sign}`
}

/** What stands beside the number being typed. */
export const signOf = (unit: string) => saidIn(unit).sign

/** A predicted range with its unit; to the volt where tenths would only pretend. */
export function rangeWords({ low, high }: Range, unit: string): string {
  if (saidIn(unit).values.length) return [...new Set([low, high].map((end) => valueWords(end, unit)))].join(' or ')
  if (unit === 'ohm') return [...new Set([low, high].map(ohmWords))].join('–')
  const say = (value: number) => (value >= 20 ? String(Math.round(value)) : String(Math.round(value * 10) / 10))
  const [from, to] = [say(low), say(high)]
  const { after } = saidIn(unit)
  return from === to ? `${from} ${after}` : `${from}–${to} ${after}`
}

export const rangesWords = (ranges: readonly Range[], unit: string) => ranges.map((one) => rangeWords(one, unit)).join(' or ')

/** Which switches stand open, in words; nothing where all are closed. */
export const switchWords = (circuit: Circuit, open: readonly string[]) =>
  circuit.switches
    .filter((one) => open.includes(one.id))
    .map((one) => `${one.name.toLowerCase()} ${one.open}`)
    .join(', ')

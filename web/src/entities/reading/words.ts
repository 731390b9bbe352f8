import type { Circuit, Range, Reading } from '../../api/schema.gen'

/** A probability as people say it: never 100 % and never 0 %. */
export function percent(probability: number): string {
  if (probability >= 0.995) return '>99%'
  if (probability < 0.005) return '<1%'
  return `${Math.round(probability * 100)}%`
}

/** A number with its unit; of a phase sequence, the order in which the legs follow each other. */
export function valueWords(value: number, unit: string): string {
  switch (unit) {
    case 'seq':
      return value > 0.5 ? '1-2-3' : value < -0.5 ? '3-2-1' : 'no turning'
    case 'beep':
      return value > 0.5 ? 'beeps' : 'silent'
    case 'run':
      return ['still or out', 'running or in', 'hums or chatters'][Math.round(value)] ?? ''
    case 'ohm':
      return ohmWords(value)
    case 'degF':
      return `${value} °F over`
    default:
      return `${value} ${unit}`
  }
}

/** A reading's number with its unit. */
export const unitWords = ({ value, unit }: Pick<Reading, 'value' | 'unit' | 'measurement'>) => valueWords(value, unit)

/** A resistance as a meter shows it. */
function ohmWords(ohm: number): string {
  if (ohm === 40e6) return 'OL'
  if (ohm >= 200e6) return 'over 200 MΩ'
  const [size, sign] = ohm >= 1e6 ? [1e6, 'MΩ'] : ohm >= 1e3 ? [1e3, 'kΩ'] : [1, 'Ω']
  return `${Number((ohm / size).toPrecision(3))} ${sign}`
}

const SIGNS: Record<string, string> = { V: 'V~', A: 'A~', ohm: 'Ω', degF: '°F' }

/** What stands beside the number being typed. */
export const signOf = (unit: string) => SIGNS[unit] ?? ''

/** A predicted range with its unit; to the volt where tenths would only pretend. */
export function rangeWords({ low, high }: Range, unit: string): string {
  if (unit === 'seq' || unit === 'beep' || unit === 'run') return [...new Set([low, high].map((end) => valueWords(end, unit)))].join(' or ')
  if (unit === 'ohm') return [...new Set([low, high].map(ohmWords))].join('–')
  const say = (value: number) => (value >= 20 ? String(Math.round(value)) : String(Math.round(value * 10) / 10))
  const [from, to] = [say(low), say(high)]
  const said = unit === 'degF' ? '°F over' : unit
  return from === to ? `${from} ${said}` : `${from}–${to} ${said}`
}

export const rangesWords = (ranges: readonly Range[], unit: string) => ranges.map((one) => rangeWords(one, unit)).join(' or ')

/** Which switches stand open, in words; nothing where all are closed. */
export const switchWords = (circuit: Circuit, open: readonly string[]) =>
  circuit.switches.filter((one) => open.includes(one.id)).map((one) => `${one.name.toLowerCase()} ${one.open}`).join(', ')

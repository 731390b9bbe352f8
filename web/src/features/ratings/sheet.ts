import type { RatedSupply } from '../../api/schema.gen'
import { gauge } from '../../shared/units'

export type Sheet = RatedSupply['sheet']

const GAUGES = [14, 12, 10, 8, 6, 4, 3, 2, 1, 0, -1, -2, -3, -4, -5, -6, -7, -8]
export const SIZES = GAUGES.map((size) => [size, gauge(size)] as const)

const TYPES = ['TW', 'UF-B', 'NM-B', 'THW', 'THWN', 'RHW', 'THHN', 'THWN-2', 'XHHW', 'XHHW-2', 'SE', 'RHW-2', 'USE-2', 'FEP', 'SIS'] as const
export const INSULATIONS = TYPES.map((one) => [one, one] as const)

export const ODD_COLOURS = [
  ['neither', 'neither'],
  ['white', 'white'],
  ['gray', 'gray'],
  ['green', 'green'],
] as const

/** The colour that says something about a run's legs; none while nobody looked. */
export function oddColour(colours: readonly string[]): (typeof ODD_COLOURS)[number][0] | null {
  if (colours.length === 0) return null
  return ODD_COLOURS.find(([key]) => colours.includes(key))?.[0] ?? 'neither'
}

import type { Workbench } from '../../api/schema.gen'
import { switchWords } from '../../entities/reading/words'
import { GROUND } from '../../shared/point'

/** One place along the circuit: what each leg should have there, and what was read. */
export type Place = { part: string; name: string } & Record<string, number | string | null>

export type Profile = { lanes: string[]; places: Place[]; hasRead: boolean }

/** Volts to ground along the first supply, leg by leg: as the leading explanation has it, and as they were read in that state. */
export function profileOf({ strip, diagnosis, readings }: Pick<Workbench, 'strip' | 'diagnosis' | 'readings'>, open: readonly string[]): Profile {
  const [section] = strip.sections
  const same = (other: readonly string[] | undefined) => (other ?? []).length === open.length && open.every((id) => (other ?? []).includes(id))
  const state = diagnosis.lanes.find((one) => same(one.open_switches))
  const rows = (section?.rows ?? []).filter((row) => Object.keys(row.points).length > 0)
  const lanes = (section?.lanes ?? []).filter((lane) => lane !== GROUND)
  const read = new Map<string, number>()
  for (const { reading } of readings) {
    const { place, open_switches } = reading.measurement
    if (reading.unit !== 'V' || place.kind !== 'between' || !same(open_switches)) continue
    if (place.b === GROUND) read.set(place.a, reading.value)
    if (place.a === GROUND) read.set(place.b, reading.value)
  }
  const places = rows.map((row) => {
    const place: Place = { part: row.part, name: row.point_name }
    for (const lane of lanes) {
      const point = row.points[lane]
      place[lane] = point ? (state?.points[point]?.volts ?? null) : null
      place[`${lane} read`] = point ? (read.get(point) ?? null) : null
    }
    return place
  })
  return { lanes: lanes.filter((lane) => places.some((one) => one[lane] !== null)), places, hasRead: read.size > 0 }
}

/** The states in which the explanation is known, each with its words: all closed, and at rest. */
export function statesOf({ circuit, diagnosis }: Pick<Workbench, 'circuit' | 'diagnosis'>): { open: readonly string[]; words: string }[] {
  return diagnosis.lanes.map(({ open_switches }) => {
    const open = open_switches ?? []
    return { open, words: switchWords(circuit, open) || 'all closed, unit calling' }
  })
}

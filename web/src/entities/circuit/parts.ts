import type { Circuit, CircuitEdit, Part, StripRow, Switch } from '../../api/schema.gen'
import { feetOf, gauge, metresOf } from '../../shared/units'

export type Edit = CircuitEdit['edit']

const GROUND = 'G'

/** A part's data as the form holds them, in the trade's units; empty where it has none. */
export type PartForm = {
  name: string
  size_awg?: number
  metal?: 'copper' | 'aluminium'
  length_ft?: number
  volts?: number
  amps?: number
  power_factor?: number
  rating_amps?: number
  capacitance_uf?: number
  drives?: Part['drives']
  primary?: number
  secondary?: number
  volt_amps?: number
  lanes: string[]
  makes: string[]
  switch: string
  normally_closed: boolean
}

/** What opens a part that nothing opens, and one that gets a switch of its own. */
export const NOTHING = ''
export const ITS_OWN = '+'

/** The conductors a part may be on: those that come as far as it. */
export const choosable = (row: StripRow) => row.reach.filter((lane) => lane !== GROUND)

/** The conductors it is on now. */
const lanesNow = (row: StripRow) => Object.keys(row.comes_from).filter((lane) => lane !== GROUND)

export function formOf(part: Part, row: StripRow): PartForm {
  return {
    name: part.name,
    size_awg: part.conductor?.size_awg,
    metal: part.conductor?.metal,
    length_ft: part.conductor ? Math.round(feetOf(part.conductor.length_m)) : undefined,
    volts: part.load?.rated_volts,
    amps: part.load?.rated_amps,
    power_factor: part.load?.power_factor,
    rating_amps: part.rating_amps ?? undefined,
    capacitance_uf: part.capacitance_uf ?? undefined,
    drives: part.drives ?? null,
    primary: part.winding?.primary_volts,
    secondary: part.winding?.secondary_volts,
    volt_amps: part.winding?.volt_amps,
    lanes: part.lanes ? part.lanes.filter((lane) => lane !== GROUND) : lanesNow(row),
    makes: [...(part.makes ?? [])],
    switch: part.switch ?? NOTHING,
    normally_closed: part.normally_closed ?? false,
  }
}

/** The part with the form's data; a length or conductors that were not touched stay exactly as they were. */
export function partFrom(part: Part, row: StripRow, form: PartForm, ownSwitch: Switch | null): Part {
  const before = formOf(part, row)
  const sameLanes = form.lanes.join() === before.lanes.join() && form.makes.join() === before.makes.join()
  // Every terminal that begins at a part begins on the one conductor that comes to it.
  const lanes = makesTerminals(part) ? form.makes.map(() => form.lanes[0] ?? 'R') : form.lanes
  return {
    ...part,
    name: form.name.trim() || part.name,
    rating_amps: form.rating_amps ?? null,
    capacitance_uf: form.capacitance_uf ?? null,
    drives: form.drives ?? null,
    lanes: sameLanes ? part.lanes : lanes,
    makes: form.makes,
    switch: ownSwitch?.id ?? (form.switch || null),
    normally_closed: form.normally_closed,
    conductor: part.conductor && {
      ...part.conductor,
      size_awg: form.size_awg ?? part.conductor.size_awg,
      metal: form.metal ?? part.conductor.metal,
      length_m: form.length_ft === before.length_ft ? part.conductor.length_m : metresOf(form.length_ft ?? 1),
    },
    load: part.load && {
      ...part.load,
      rated_volts: form.volts ?? part.load.rated_volts,
      rated_amps: form.amps ?? part.load.rated_amps,
      power_factor: form.power_factor ?? part.load.power_factor,
    },
    winding: part.winding && {
      ...part.winding,
      primary_volts: form.primary ?? part.winding.primary_volts,
      secondary_volts: form.secondary ?? part.winding.secondary_volts,
      volt_amps: form.volt_amps ?? part.winding.volt_amps,
    },
  }
}

/** Whether conductors with other names begin at a part that carries current on, as at a thermostat. */
export const makesTerminals = (part: Part) => (part.makes ?? []).length > 0 && !part.winding && !part.capacitance_uf

/** A switch of its own for a part that had none. */
export function switchFor(circuit: Circuit, part: Part): Switch {
  const taken = new Set(circuit.switches.map((one) => one.id))
  let id = part.id
  for (let i = 2; taken.has(id); i++) id = `${part.id.slice(0, 36)}_${i}`
  return {
    id,
    name: part.name.charAt(0).toUpperCase() + part.name.slice(1),
    closed: 'on',
    open: 'off',
    removes_carrier: false,
    coil: null,
    closes_after: null,
    opens_after: null,
  }
}

/** Gauges from 18 AWG to 500 kcmil with their names. */
export const GAUGES = [18, 16, 14, 12, 10, 8, 6, 4, 3, 2, 1, 0, -1, -2, -3, -4, -5, -6, -7, -8].map((size) => [size, gauge(size)] as const)

export const METALS = [
  ['copper', 'copper'],
  ['aluminium', 'aluminum'],
] as const

/** Letters of control terminals. G is the ground here: the fan's is FAN. */
export const TERMINALS = ['R', 'C', 'W', 'W1', 'W2', 'W3', 'Y', 'Y1', 'Y2', 'FAN', 'O', 'B', 'E', 'H1', 'H2', 'X1', 'X2', 'S'].map((letter) => ({
  value: letter,
  label: letter === 'FAN' ? 'G (fan)' : letter,
}))

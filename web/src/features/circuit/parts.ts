import type { Circuit, CircuitEdit, Part, PartKind, Switch } from '../../api/schema.gen'
import { feetOf, gauge, metresOf } from '../../shared/units'

export type Edit = CircuitEdit['edit']


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
}

export function formOf(part: Part): PartForm {
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
  }
}

/** The part with the form's data; a length that was not touched keeps its exact metres. */
export function partFrom(part: Part, form: PartForm): Part {
  const untouched = form.length_ft === formOf(part).length_ft
  return {
    ...part,
    name: form.name.trim() || part.name,
    rating_amps: form.rating_amps ?? null,
    capacitance_uf: form.capacitance_uf ?? null,
    conductor: part.conductor && {
      ...part.conductor,
      size_awg: form.size_awg ?? part.conductor.size_awg,
      metal: form.metal ?? part.conductor.metal,
      length_m: untouched ? part.conductor.length_m : metresOf(form.length_ft ?? 1),
    },
    load: part.load && {
      ...part.load,
      rated_volts: form.volts ?? part.load.rated_volts,
      rated_amps: form.amps ?? part.load.rated_amps,
      power_factor: form.power_factor ?? part.load.power_factor,
    },
  }
}

/** A new part of a kind to stand behind another, with data to begin from, and its own switch where it is one. */
export function newPart(circuit: Circuit, behind: Part, kind: PartKind): { part: Part; switch: Switch | null } {
  const taken = new Set([...circuit.parts.map((one) => one.id), ...circuit.switches.map((one) => one.id)])
  let id = kind.kind
  for (let i = 2; taken.has(id); i++) id = `${kind.kind}_${i}`
  const nearby = circuit.parts.find((one) => one.load)?.load
  const part = {
    id,
    kind: kind.kind,
    name: kind.label.toLowerCase(),
    device: behind.device,
    zone: behind.zone,
    conductor: kind.needs === 'conductor' ? { size_awg: 10, metal: 'copper', length_m: 3 } : null,
    load: kind.needs === 'load' ? { rated_volts: nearby?.rated_volts ?? 240, rated_amps: 1, power_factor: 1 } : null,
    capacitance_uf: kind.needs === 'capacitance' ? 1 : null,
    switch: kind.is_switch ? id : null,
  } as Part
  return { part, switch: kind.is_switch ? { id, name: kind.label, closed: 'on', open: 'off', removes_carrier: false, coil: null } : null }
}

/** Gauges from 18 to 4/0 AWG with their names. */
export const GAUGES = [18, 16, 14, 12, 10, 8, 6, 4, 3, 2, 1, 0, -1, -2, -3].map((size) => [size, gauge(size)] as const)

export const METALS = [['copper', 'copper'], ['aluminium', 'aluminum']] as const

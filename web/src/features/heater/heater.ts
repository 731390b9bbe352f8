import type { HeaterAsked, RatedSupply } from '../../api/schema.gen'

export type Old = HeaterAsked['old']
export type Wanted = HeaterAsked['wanted']
export type Kit = NonNullable<HeaterAsked['kit']>

/** A kit as the form holds it: nothing of it is known at first. */
export type KitDraft = Partial<Kit>

export type Draft = { old: Old; wanted: Wanted; kit: KitDraft; source: string }

/** What the circuit on file already says of an old heater and of its place. */
export function draftFrom(supply: RatedSupply | undefined): Draft {
  const plate = supply?.sheet.plate
  const transformer = supply?.sheet.transformers[0]
  const taken = (transformer?.coils_va ?? []).reduce((sum, one) => sum + one, 0)
  return {
    source: supply?.source ?? '',
    old: { rated_volts: plate?.heat_volts ?? plate?.most_volts ?? null, elements: 1 },
    wanted: {
      supply_volts: supply?.sheet.nominal_volts ?? 240,
      phases: supply?.sheet.three_phase ? 3 : 1,
      stages: 1,
      control: '24 V',
      spare_va: transformer ? Math.max(0, Math.round(transformer.volt_amps - taken)) : null,
    },
    kit: {},
  }
}

/** The kit, once enough of it is known to be judged. */
export const kitOf = ({ kit }: Draft): Kit | null =>
  kit.kw && kit.rated_volts
    ? {
        ...kit,
        name: kit.name ?? 'kit',
        kw: kit.kw,
        rated_volts: kit.rated_volts,
        phases: kit.phases ?? 1,
        control: kit.control ?? '24 V',
        stages_kw: kit.stages_kw ?? [],
        circuits_kw: kit.circuits_kw ?? [],
        airflow: kit.airflow ?? [],
      }
    : null

/** Kilowatts one after the other, as 5 + 5 or 4.8, 4.8; what is no number is left out. */
export const kilowatts = (text: string): number[] =>
  text
    .split(/[+;,\s]+/)
    .map(Number)
    .filter((one) => one > 0)

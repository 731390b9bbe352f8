import { Button, Checkbox } from 'antd'
import { useState } from 'react'

import type { RatedSupply } from '../../api/schema.gen'
import { ChoiceField, NumberField, PickField, TextField, YesNoField } from '../../shared/fields'
import { type Draft, type Kit, kilowatts, type Old, type Wanted } from './heater'

const PHASES = [
  [1, 'one'],
  [3, 'three'],
] as const
const CONTROLS = [
  ['24 V', '24 V'],
  ['120 V', '120 V'],
  ['line voltage', 'line voltage'],
] as const
const WAYS = ['up', 'down', 'left', 'right'] as const
const AIRFLOWS = WAYS.map((one) => [one, one] as const)

type Props = { supplies: readonly RatedSupply[]; draft: Draft; set: (draft: Draft) => void; startOver: () => void }

/** What is read off the old heater, its place and the kit; kept as one types, every field may stay empty. */
export function HeaterForm({ supplies, draft, set, startOver }: Props) {
  const { old, wanted, kit } = draft
  const setOld = (more: Partial<Old>) => set({ ...draft, old: { ...old, ...more } })
  const setWanted = (more: Partial<Wanted>) => set({ ...draft, wanted: { ...wanted, ...more } })
  const setKit = (more: Partial<Kit>) => set({ ...draft, kit: { ...kit, ...more } })
  return (
    <div className="heater-form">
      <fieldset>
        <legend>The heater that is there</legend>
        {supplies.length > 1 ? (
          <PickField
            label="On"
            value={draft.source}
            options={supplies.map((one) => [one.source, one.name] as const)}
            set={(source) => set({ ...draft, source })}
          />
        ) : null}
        <div className="part-fields">
          <NumberField label="On its plate" unit="kW" value={old.kw} set={(kw) => setOld({ kw })} />
          <NumberField label="Rated volts" unit="V" value={old.rated_volts} set={(rated_volts) => setOld({ rated_volts })} />
          <NumberField label="One element, cold, leads off" unit="Ω" value={old.ohm} set={(ohm) => setOld({ ohm })} />
          <NumberField label="Volts across it, heating" unit="V" value={old.volts} set={(volts) => setOld({ volts })} />
          <NumberField label="Amps through one, heating" unit="A" value={old.amps} set={(amps) => setOld({ amps })} />
          <NumberField label="Elements alike" unit="" value={old.elements} set={(elements) => setOld({ elements: elements ?? 1 })} />
        </div>
      </fieldset>
      <fieldset>
        <legend>What its place asks</legend>
        <div className="part-fields">
          <NumberField label="Supply" unit="V" value={wanted.supply_volts} set={(volts) => volts !== null && setWanted({ supply_volts: volts })} />
          <PickField label="Phases" value={wanted.phases === 3 ? 3 : 1} options={PHASES} set={(phases) => setWanted({ phases })} />
          <NumberField label="Calls for heat" unit="" value={wanted.stages} set={(stages) => setWanted({ stages: stages ?? 1 })} />
          <PickField label="Control voltage" value={wanted.control ?? '24 V'} options={CONTROLS} set={(control) => setWanted({ control })} />
          <NumberField label="Left on the transformer" unit="VA" value={wanted.spare_va} set={(spare_va) => setWanted({ spare_va })} />
          <ChoiceField label="Airflow" value={wanted.airflow} options={AIRFLOWS} set={(airflow) => setWanted({ airflow })} />
          <NumberField label="Blower in heating" unit="cfm" value={wanted.cfm} set={(cfm) => setWanted({ cfm })} />
          <NumberField label="Rise limit" unit="°F" value={wanted.rise_limit_f} set={(rise_limit_f) => setWanted({ rise_limit_f })} />
          <NumberField label="Opening width" unit="in" value={wanted.opening_width_in} set={(opening_width_in) => setWanted({ opening_width_in })} />
          <NumberField label="Opening height" unit="in" value={wanted.opening_height_in} set={(opening_height_in) => setWanted({ opening_height_in })} />
          <NumberField label="Depth available" unit="in" value={wanted.depth_in} set={(depth_in) => setWanted({ depth_in })} />
        </div>
      </fieldset>
      <fieldset>
        <legend>The kit</legend>
        <div className="part-fields">
          <NumberField label="Kit size" unit="kW" value={kit.kw} set={(kw) => setKit({ kw: kw ?? undefined })} />
          <NumberField label="Kit, rated volts" unit="V" value={kit.rated_volts} set={(volts) => setKit({ rated_volts: volts ?? undefined })} />
          <PickField label="Kit, phases" value={kit.phases === 3 ? 3 : 1} options={PHASES} set={(phases) => setKit({ phases })} />
          <KilowattsField label="Stages, kW each" value={kit.stages_kw} set={(stages_kw) => setKit({ stages_kw })} />
          <KilowattsField label="Circuits, kW each" value={kit.circuits_kw} set={(circuits_kw) => setKit({ circuits_kw })} />
          <PickField label="Kit control voltage" value={kit.control ?? '24 V'} options={CONTROLS} set={(control) => setKit({ control })} />
          <NumberField label="Its coils" unit="VA" value={kit.control_va} set={(control_va) => setKit({ control_va })} />
          <NumberField label="Least air" unit="cfm" value={kit.least_cfm} set={(least_cfm) => setKit({ least_cfm })} />
          <NumberField label="Kit width" unit="in" value={kit.width_in} set={(width_in) => setKit({ width_in })} />
          <NumberField label="Kit height" unit="in" value={kit.height_in} set={(height_in) => setKit({ height_in })} />
          <NumberField label="Kit depth" unit="in" value={kit.depth_in} set={(depth_in) => setKit({ depth_in })} />
          <YesNoField label="On the maker’s list" value={kit.listed_for_it} set={(listed_for_it) => setKit({ listed_for_it })} />
        </div>
        <fieldset className="part-conductors">
          <legend>Listed for airflow</legend>
          <Checkbox.Group value={kit.airflow ?? []} options={WAYS.map((one) => ({ value: one, label: one }))} onChange={(airflow) => setKit({ airflow })} />
        </fieldset>
      </fieldset>
      <Button onClick={startOver}>Start over</Button>
    </div>
  )
}

/** Kilowatts of several things, as 5 + 5. */
function KilowattsField({ label, value, set }: { label: string; value: readonly number[] | undefined; set: (kilowatts: number[]) => void }) {
  const [text, setText] = useState((value ?? []).join(' + '))
  return (
    <TextField
      label={label}
      value={text}
      set={(typed) => {
        setText(typed)
        set(kilowatts(typed))
      }}
      placeholder="5 + 5"
    />
  )
}

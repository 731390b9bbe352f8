import { Button, Checkbox, Select } from 'antd'
import { useState } from 'react'

import type { Switch } from '../../api/schema.gen'
import {
  choosable,
  formOf,
  GAUGES,
  ITS_OWN,
  makesTerminals,
  METALS,
  NOTHING,
  type PartForm,
  partFrom,
  switchFor,
  TERMINALS,
} from '../../entities/circuit/parts'
import { rowsOf } from '../../entities/strip/rows'
import { ChoiceField, NumberField, PickField, TextField } from '../../shared/fields'
import type { PartProps } from './partProps'

const DRIVES = [
  ['compressor', 'a compressor'],
  ['fan', 'a fan or blower'],
  ['pump', 'a pump'],
  ['other', 'something else'],
] as const

/** What a part is: its data, the conductors it is on, and what opens it. */
export function PartEditor({ row, part, circuit, strip, busy, change }: PartProps) {
  const [form, setForm] = useState<PartForm>(formOf(part, row))
  const set = (more: Partial<PartForm>) => setForm({ ...form, ...more })
  const number = (key: keyof PartForm) => (value: number | null) => set({ [key]: value ?? undefined })
  const lanes = choosable(row)
  const moves = circuit.switches.find((one) => one.id === part.switch)
  const coils = rowsOf(strip)
    .filter((one) => one.moves_contacts)
    .map((one) => [one.part, one.name] as const)
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        const own = form.switch === ITS_OWN ? switchFor(circuit, part) : null
        change({ do: 'change', part: partFrom(part, row, form, own), switch: own })
      }}
    >
      <div className="part-fields">
        <TextField label="Name" value={form.name} set={(name) => set({ name })} />
        {part.conductor ? (
          <>
            <PickField label="Size" value={form.size_awg ?? part.conductor.size_awg} options={GAUGES} set={(size_awg) => set({ size_awg })} />
            <PickField label="Metal" value={form.metal ?? 'copper'} options={METALS} set={(metal) => set({ metal })} />
            <NumberField label="Length, one way" unit="ft" value={form.length_ft} set={number('length_ft')} />
          </>
        ) : null}
        {part.load ? (
          <>
            <NumberField label="Nameplate volts" unit="V" value={form.volts} set={number('volts')} />
            <NumberField label="Nameplate amps" unit="A" value={form.amps} set={number('amps')} />
            <NumberField label="Power factor" unit="" value={form.power_factor} set={number('power_factor')} />
          </>
        ) : null}
        {row.is_motor ? <ChoiceField label="It drives" value={form.drives} options={DRIVES} set={(drives) => set({ drives })} /> : null}
        {part.winding ? (
          <>
            <NumberField label="Primary" unit="V" value={form.primary} set={number('primary')} />
            <NumberField label="Secondary" unit="V" value={form.secondary} set={number('secondary')} />
            <NumberField label="Plate" unit="VA" value={form.volt_amps} set={number('volt_amps')} />
          </>
        ) : null}
        {part.capacitance_uf ? <NumberField label="Capacitance" unit="µF" value={form.capacitance_uf} set={number('capacitance_uf')} /> : null}
        {part.rating_amps || row.switch ? <NumberField label="Rating" unit="A" value={form.rating_amps} set={number('rating_amps')} /> : null}
        {row.role === 'series' ? (
          <PickField
            label="Opened by"
            value={form.switch}
            options={[[NOTHING, 'nothing'], ...circuit.switches.map((one) => [one.id, one.name] as const), [ITS_OWN, 'a switch of its own']]}
            set={(choice) => set({ switch: choice })}
          />
        ) : null}
        {moves ? (
          <ChoiceField
            label={`What moves “${moves.name}”`}
            none="a hand, or a call"
            value={moves.coil}
            options={coils}
            set={(coil) => change({ do: 'change_switch', switch: { ...moves, coil } })}
          />
        ) : null}
      </div>
      {moves?.coil ? <DelayFields key={moves.id} of={moves} set={(more) => change({ do: 'change_switch', switch: { ...moves, ...more } })} /> : null}
      {lanes.length > 1 && row.role !== 'source' && !makesTerminals(part) ? (
        <fieldset className="part-conductors">
          <legend>On which conductors</legend>
          <Checkbox.Group
            value={form.lanes}
            options={lanes.map((lane) => ({ value: lane, label: lane }))}
            onChange={(chosen) => set({ lanes: lanes.filter((lane) => chosen.includes(lane)) })}
          />
        </fieldset>
      ) : null}
      {makesTerminals(part) ? (
        <label className="labelled">
          Terminals it calls on
          <Select
            mode="multiple"
            aria-label="Terminals it calls on"
            virtual={false}
            value={form.makes}
            options={TERMINALS}
            onChange={(makes) => set({ makes })}
          />
        </label>
      ) : null}
      {form.switch !== NOTHING ? (
        <Checkbox checked={form.normally_closed} onChange={(event) => set({ normally_closed: event.target.checked })}>
          Normally closed: opens when it is called
        </Checkbox>
      ) : null}
      <div className="part-actions">
        <Button type="primary" htmlType="submit" disabled={busy}>
          Change
        </Button>
      </div>
    </form>
  )
}

type Delays = Pick<Switch, 'closes_after' | 'opens_after'>

/** How long after its coil a contact moves, least and most; empty as its kind usually does. */
function DelayFields({ of: { closes_after, opens_after }, set }: { of: Delays; set: (delays: Delays) => void }) {
  const [told, setTold] = useState<(number | null)[]>([
    closes_after?.least_s ?? null,
    closes_after?.most_s ?? null,
    opens_after?.least_s ?? null,
    opens_after?.most_s ?? null,
  ])
  const put = (at: number) => (value: number | null) => setTold(told.map((one, i) => (i === at ? value : one)))
  const span = (least: number | null = null, most: number | null = null) =>
    least === null && most === null ? null : { least_s: least ?? most ?? 0, most_s: most ?? least ?? 0 }
  const [on, slowestOn, off, slowestOff] = told
  return (
    <fieldset className="part-conductors">
      <legend>Seconds after its coil</legend>
      <div className="part-fields">
        <NumberField label="Closes after, least" unit="s" value={on} set={put(0)} />
        <NumberField label="Closes after, most" unit="s" value={slowestOn} set={put(1)} />
        <NumberField label="Opens after, least" unit="s" value={off} set={put(2)} />
        <NumberField label="Opens after, most" unit="s" value={slowestOff} set={put(3)} />
        <Button onClick={() => set({ closes_after: span(on, slowestOn), opens_after: span(off, slowestOff) })}>Set the delays</Button>
      </div>
    </fieldset>
  )
}

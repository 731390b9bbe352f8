import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { useEffect, useRef, useState } from 'react'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { ratings } from '../../api/queries'
import type { CallRatings, RatedSupply } from '../../api/schema.gen'
import { Clash } from '../../shared/Clash'
import { ChoiceField, NumberField, YesNoField } from '../../shared/fields'
import { celsiusOf, fahrenheitOf, feetOf, inchesOf, metresOf, mmOf } from '../../shared/units'
import { METALS } from '../circuit/parts'
import { BoxesForm } from './BoxesForm'
import { JointsForm } from './JointsForm'
import { changed, INSULATIONS, ODD_COLOURS, oddColour, type Sheet, SIZES } from './sheet'

const EDITIONS = [['2023', 'NEC 2023'], ['2020', 'NEC 2020'], ['2017', 'NEC 2017']] as const
const USES = [['compressor', 'compressor equipment'], ['heat', 'electric heat'], ['motor', 'other motor']] as const
const TERMINALS = [[60, '60 °C, or no mark'], [75, '75 °C']] as const
const RACEWAYS = [['plastic', 'plastic conduit'], ['aluminium', 'aluminum conduit'], ['steel', 'steel conduit']] as const
const PHASES = [[1, 'one'], [3, 'three']] as const
const SORTS = [['breaker', 'breaker'], ['fuse', 'fuse']] as const
const PAUSE_MS = 500

/** What is known of plate, wires and devices; kept as one types, every field may stay empty. */
export function SheetForm({ callId, supply }: { callId: string; supply: RatedSupply }) {
  const client = useQueryClient()
  const [draft, setDraft] = useState<Sheet>(supply.sheet)
  const [fresh, setFresh] = useState(0)
  const touched = useRef(false)
  const path = { call_id: callId, source: supply.source }
  // Which sheet ours began with; each answer brings the next.
  const seen = useRef(supply.version)
  const took = (data: CallRatings) => {
    const kept = data.supplies.find((one) => one.source === supply.source)
    if (kept) seen.current = kept.version
    void hold(client, ratings(callId).queryKey, data)
    void client.invalidateQueries({ queryKey: ['workbench', callId] })
    return kept
  }
  const show = (kept: RatedSupply | undefined) => {
    touched.current = false
    if (kept) setDraft(kept.sheet)
    setFresh(fresh + 1)
  }
  // One after the other: each says which sheet it follows.
  const scope = { id: `sheet ${callId} ${supply.source}` }
  const save = useMutation({
    scope,
    mutationFn: ({ sheet, anyway }: { sheet: Sheet; anyway?: boolean }) =>
      answered(api.PUT('/api/calls/{call_id}/ratings/{source}', { params: { path, query: { seen: anyway ? null : seen.current } }, body: sheet })),
    onSuccess: took,
  })
  const forget = useMutation({
    scope,
    mutationFn: () => answered(api.DELETE('/api/calls/{call_id}/ratings/{source}', { params: { path, query: { seen: seen.current } } })),
    onSuccess: (data) => show(took(data)),
  })
  const seeTheirs = async () => {
    const theirs = await client.fetchQuery({ ...ratings(callId), staleTime: 0 })
    save.reset()
    forget.reset()
    show(took(theirs))
  }
  const { mutate } = save
  useEffect(() => {
    if (!touched.current) return
    const later = setTimeout(() => mutate({ sheet: draft }), PAUSE_MS)
    return () => clearTimeout(later)
  }, [draft, mutate])
  const edit = (next: Sheet) => {
    touched.current = true
    setDraft(next)
  }
  const { plate } = draft
  const setPlate = (more: Partial<Sheet['plate']>) => edit({ ...draft, plate: { ...plate, ...more } })
  return (
    <details className="standing sheet-form">
      <summary>
        What is known <span className="quiet">plate, wires, devices</span>
      </summary>
      <div key={fresh}>
        <fieldset>
          <legend>Nameplate and code</legend>
          <div className="part-fields">
            <ChoiceField label="It is" value={plate.use} options={USES} set={(use) => setPlate({ use })} />
            <NumberField label="MCA" unit="A" value={plate.mca_amps} set={(mca_amps) => setPlate({ mca_amps })} />
            <NumberField label="MOCP" unit="A" value={plate.mocp_amps} set={(mocp_amps) => setPlate({ mocp_amps })} />
            <NumberField label="Volts, lower" unit="V" value={plate.least_volts} set={(least_volts) => setPlate({ least_volts })} />
            <NumberField label="Volts, higher" unit="V" value={plate.most_volts} set={(most_volts) => setPlate({ most_volts })} />
            <NumberField label="Heat, all" unit="A" value={plate.heat_amps} set={(heat_amps) => setPlate({ heat_amps })} />
            <NumberField label="or Heat, all" unit="kW" value={plate.heat_kw} set={(heat_kw) => setPlate({ heat_kw })} />
            <ChoiceField label="Phases" value={plate.phases} options={PHASES} set={(phases) => setPlate({ phases })} />
            <ChoiceField label="Code" value={draft.edition} options={EDITIONS} set={(edition) => edit({ ...draft, edition: edition ?? '2023' })} />
          </div>
          <div className="part-fields">
            {plate.motors.map((motor, i) => (
              <MotorFields key={i} motor={motor} set={(more) => setPlate({ motors: changed(plate.motors, i, more) })} />
            ))}
          </div>
        </fieldset>
        {draft.runs.map((run, i) => {
          const set = (more: Partial<typeof run>) => edit({ ...draft, runs: changed(draft.runs, i, more) })
          return (
            <fieldset key={run.part ?? i}>
              <legend>{run.name}</legend>
              <div className="part-fields">
                <ChoiceField label="Size" value={run.size_awg} options={SIZES} set={(size) => size !== null && set({ size_awg: size })} />
                <ChoiceField label="Metal" value={run.metal} options={METALS} set={(metal) => metal && set({ metal })} />
                <ChoiceField label="Insulation" value={run.insulation} options={INSULATIONS} set={(insulation) => set({ insulation })} />
                <ChoiceField label="Terminals" value={run.terminals_c} options={TERMINALS} set={(terminals_c) => set({ terminals_c })} />
                <NumberField label="One way" unit="ft" value={run.length_m ? feetOf(run.length_m) : null} set={(feet) => set({ length_m: feet === null ? null : metresOf(feet) })} />
                <NumberField label="Hottest ambient" unit="°F" value={run.ambient_c === null || run.ambient_c === undefined ? null : fahrenheitOf(run.ambient_c)} set={(f) => set({ ambient_c: f === null ? null : celsiusOf(f) })} />
                <NumberField label="Current-carrying" unit="" value={run.carrying} set={(carrying) => set({ carrying })} />
                <NumberField label="Above a roof, in sun" unit="in" value={run.above_roof_mm === null || run.above_roof_mm === undefined ? null : inchesOf(run.above_roof_mm)} set={(inch) => set({ above_roof_mm: inch === null ? null : mmOf(inch) })} />
                <ChoiceField label="In" value={run.raceway} options={RACEWAYS} set={(raceway) => set({ raceway })} />
                <ChoiceField label="Ground wire" value={run.grounding_awg} options={SIZES} set={(grounding_awg) => set({ grounding_awg })} />
                <YesNoField label="In the wet" value={run.wet} set={(wet) => set({ wet })} />
                <ChoiceField label="A leg is white or green" value={oddColour(run.hot_colours)} options={ODD_COLOURS} set={(colour) => set({ hot_colours: colour === null ? [] : colour === 'neither' ? ['black', 'red'] : ['black', colour] })} />
                <YesNoField label="Marked again, in a cable" value={run.marked_again} set={(yes) => set({ marked_again: yes ?? false, in_cable: yes ?? false })} />
              </div>
            </fieldset>
          )
        })}
        {draft.devices.map((device, i) => {
          const set = (more: Partial<typeof device>) => edit({ ...draft, devices: changed(draft.devices, i, more) })
          return (
            <fieldset key={device.part ?? i}>
              <legend>{device.name}</legend>
              <div className="part-fields">
                <NumberField label="Rating" unit="A" value={device.amps} set={(amps) => amps !== null && set({ amps })} />
                <ChoiceField label="It is a" value={device.sort} options={SORTS} set={(sort) => sort && set({ sort })} />
                <YesNoField label="Marked for A/C" value={device.for_ac} set={(for_ac) => set({ for_ac })} />
              </div>
            </fieldset>
          )
        })}
        {draft.disconnects.map((one, i) => {
          const set = (more: Partial<typeof one>) => edit({ ...draft, disconnects: changed(draft.disconnects, i, more) })
          return (
            <fieldset key={one.part ?? i}>
              <legend>{one.name}</legend>
              <div className="part-fields">
                <NumberField label="Rating" unit="A" value={one.amps} set={(amps) => set({ amps })} />
                <NumberField label="Locked-rotor rating" unit="A" value={one.locked_amps} set={(locked_amps) => set({ locked_amps })} />
                <YesNoField label="In sight" value={one.in_sight} set={(in_sight) => set({ in_sight })} />
                <YesNoField label="Can be locked open" value={one.lockable} set={(lockable) => set({ lockable })} />
              </div>
            </fieldset>
          )
        })}
        {draft.contactors.map((one, i) => {
          const set = (more: Partial<typeof one>) => edit({ ...draft, contactors: changed(draft.contactors, i, more) })
          return (
            <fieldset key={one.part ?? i}>
              <legend>{one.name}</legend>
              <div className="part-fields">
                <NumberField label="Full-load" unit="A" value={one.motor_amps} set={(motor_amps) => set({ motor_amps })} />
                <NumberField label="Locked-rotor" unit="A" value={one.locked_amps} set={(locked_amps) => set({ locked_amps })} />
                <NumberField label="Resistive" unit="A" value={one.heat_amps} set={(heat_amps) => set({ heat_amps })} />
                <NumberField label="Coil" unit="V" value={one.coil_volts} set={(coil_volts) => set({ coil_volts })} />
              </div>
            </fieldset>
          )
        })}
        <JointsForm joints={draft.joints} set={(joints) => edit({ ...draft, joints })} />
        <BoxesForm boxes={draft.boxes} set={(boxes) => edit({ ...draft, boxes })} />
      </div>
      <p className="keep" aria-live="polite">
        <span className="quiet">{save.isPending ? 'Keeping …' : save.error ? '' : save.isSuccess ? 'Kept with the call.' : 'Kept as you type.'}</span>
        {supply.entered ? (
          <Button type="link" disabled={forget.isPending} onClick={() => forget.mutate()}>Back to what the circuit says</Button>
        ) : null}
      </p>
      <Clash error={save.error ?? forget.error} busy={save.isPending} seeTheirs={() => void seeTheirs()} keepMine={() => mutate({ sheet: draft, anyway: true })} />
    </details>
  )
}

type Motor = Sheet['plate']['motors'][number]

function MotorFields({ motor, set }: { motor: Motor; set: (more: Partial<Motor>) => void }) {
  return (
    <>
      <NumberField label={`${motor.name}, RLA or FLA`} unit="A" value={motor.amps} set={(amps) => amps !== null && set({ amps })} />
      <NumberField label={`${motor.name}, LRA`} unit="A" value={motor.locked_amps} set={(locked_amps) => set({ locked_amps })} />
    </>
  )
}

import { Button } from 'antd'

import type { RatedSupply } from '../../api/schema.gen'
import { ChoiceField, NumberField, TextField, YesNoField } from '../../shared/fields'
import { changed, rowKey, without } from '../../shared/rows'
import { type Sheet } from './sheet'

type Plate = Sheet['plate']
type Motor = Plate['motors'][number]
type Column = Plate['at_volts'][number]

const EDITIONS = [
  ['2023', 'NEC 2023'],
  ['2020', 'NEC 2020'],
  ['2017', 'NEC 2017'],
] as const
const USES = [
  ['compressor', 'compressor equipment'],
  ['heat', 'electric heat'],
  ['motor', 'other motor'],
] as const
const PHASES = [
  [1, 'one'],
  [3, 'three'],
] as const
const RUNS = [
  ['always', 'always'],
  ['cooling', 'in cooling alone'],
  ['heating', 'in heating alone'],
] as const

type Props = { draft: Sheet; edit: (next: Sheet) => void; checks: RatedSupply['plate_checks'] }

/** The nameplate as it is printed, in any order, every field may stay empty; whether it can all be true stands above it. */
export function PlateForm({ draft, edit, checks }: Props) {
  const { plate } = draft
  const set = (more: Partial<Plate>) => edit({ ...draft, plate: { ...plate, ...more } })
  return (
    <fieldset className="plate">
      <legend>Nameplate and code</legend>
      <PlateChecks checks={checks} />
      <div className="part-fields">
        <ChoiceField label="It is" value={plate.use} options={USES} set={(use) => set({ use })} />
        <NumberField label="MCA" unit="A" value={plate.mca_amps} set={(mca_amps) => set({ mca_amps })} />
        <NumberField label="MOCP" unit="A" value={plate.mocp_amps} set={(mocp_amps) => set({ mocp_amps })} />
        <NumberField label="Volts, lower" unit="V" value={plate.least_volts} set={(least_volts) => set({ least_volts })} />
        <NumberField label="Volts, higher" unit="V" value={plate.most_volts} set={(most_volts) => set({ most_volts })} />
        <ChoiceField label="Phases" value={plate.phases} options={PHASES} set={(phases) => set({ phases })} />
        <NumberField label="Heat, all" unit="A" value={plate.heat_amps} set={(heat_amps) => set({ heat_amps })} />
        <NumberField label="or Heat, all" unit="kW" value={plate.heat_kw} set={(heat_kw) => set({ heat_kw })} />
        <NumberField label="kW are marked at" unit="V" value={plate.heat_volts} set={(heat_volts) => set({ heat_volts })} />
        <NumberField label="SCCR" unit="kA" value={plate.sccr_ka} set={(sccr_ka) => set({ sccr_ka })} />
        <NumberField label="Power factor" unit="" value={plate.power_factor} set={(power_factor) => set({ power_factor })} />
        <YesNoField label="“Max fuse” only" value={plate.fuses_only} set={(yes) => set({ fuses_only: yes ?? false })} />
        <YesNoField label="“Max fuse or HACR breaker”" value={plate.fuse_or_hacr} set={(yes) => set({ fuse_or_hacr: yes ?? false })} />
        <YesNoField label="Heat and cooling never together" value={plate.never_together} set={(yes) => set({ never_together: yes ?? false })} />
        <ChoiceField label="Code" value={draft.edition} options={EDITIONS} set={(edition) => edit({ ...draft, edition: edition ?? '2023' })} />
      </div>
      {plate.at_volts.map((column, i) => (
        <ColumnFields
          key={rowKey(column)}
          column={column}
          set={(more) => set({ at_volts: changed(plate.at_volts, i, more) })}
          remove={() => set({ at_volts: without(plate.at_volts, i) })}
        />
      ))}
      {plate.motors.map((motor, i) => (
        <MotorFields
          key={rowKey(motor)}
          motor={motor}
          set={(more) => set({ motors: changed(plate.motors, i, more) })}
          remove={() => set({ motors: without(plate.motors, i) })}
        />
      ))}
      <p className="keep">
        <Button disabled={plate.at_volts.length >= 4} onClick={() => set({ at_volts: [...plate.at_volts, { volts: plate.at_volts.length ? 240 : 208 }] })}>
          Add a voltage column
        </Button>
        <Button onClick={() => set({ motors: [...plate.motors, { name: `motor ${plate.motors.length + 1}`, amps: 1, runs: 'always' }] })}>Add a motor</Button>
      </p>
    </fieldset>
  )
}

/** What of the plate belongs together and does not fit; that all of it does, in a line. */
function PlateChecks({ checks }: { checks: Props['checks'] }) {
  if (checks.length === 0) return null
  const odd = checks.filter((one) => !one.fits)
  return (
    <div className="plate-checks" role="status" aria-label="The plate as a whole">
      {odd.length === 0 ? <p>The plate’s numbers fit each other ({checks.length} compared).</p> : null}
      <ul>
        {odd.map((one) => (
          <li key={one.words}>
            <b>Read again: {one.fields.join(', ')}.</b> {one.words}
          </li>
        ))}
      </ul>
    </div>
  )
}

function ColumnFields({ column, set, remove }: { column: Column; set: (more: Partial<Column>) => void; remove: () => void }) {
  const at = `at ${column.volts} V`
  return (
    <div className="part-fields plate-row">
      <NumberField label="Column for" unit="V" value={column.volts} set={(volts) => volts !== null && set({ volts })} />
      <NumberField label={`MCA ${at}`} unit="A" value={column.mca_amps} set={(mca_amps) => set({ mca_amps })} />
      <NumberField label={`MOCP ${at}`} unit="A" value={column.mocp_amps} set={(mocp_amps) => set({ mocp_amps })} />
      <NumberField label={`Heat ${at}`} unit="kW" value={column.heat_kw} set={(heat_kw) => set({ heat_kw })} />
      <Button type="link" aria-label={`Remove the column ${at}`} onClick={remove}>
        Remove
      </Button>
    </div>
  )
}

function MotorFields({ motor, set, remove }: { motor: Motor; set: (more: Partial<Motor>) => void; remove: () => void }) {
  return (
    <div className="part-fields plate-row">
      <TextField label="Motor" value={motor.name} set={(name) => name.trim() && set({ name })} />
      <NumberField label={`${motor.name}, RLA or FLA`} unit="A" value={motor.amps} set={(amps) => amps !== null && set({ amps })} />
      <NumberField label={`${motor.name}, LRA`} unit="A" value={motor.locked_amps} set={(locked_amps) => set({ locked_amps })} />
      <NumberField label={`${motor.name}, horsepower`} unit="hp" value={motor.hp} set={(hp) => set({ hp })} />
      <ChoiceField label={`${motor.name} runs`} value={motor.runs} options={RUNS} set={(runs) => set({ runs: runs ?? 'always' })} />
      <NumberField label={`${motor.name}, overload set at`} unit="A" value={motor.overload_amps} set={(overload_amps) => set({ overload_amps })} />
      <NumberField label={`${motor.name}, service factor`} unit="" value={motor.service_factor} set={(service_factor) => set({ service_factor })} />
      <Button type="link" aria-label={`Remove: ${motor.name}`} onClick={remove}>
        Remove
      </Button>
    </div>
  )
}

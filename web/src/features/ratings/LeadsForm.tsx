import { Button } from 'antd'

import { ChoiceField, NumberField, TextField, YesNoField } from '../../shared/fields'
import { changed, rowKey, without } from '../../shared/rows'
import { celsiusOf, fahrenheitOf, gauge } from '../../shared/units'
import { type Sheet } from './sheet'

type Lead = Sheet['small_wires'][number]
type Cord = Sheet['cords'][number]

const SMALL = [18, 16, 14, 12, 10, 8].map((size) => [size, gauge(size)] as const)
const SLEEVES = [
  ['red', 'red'],
  ['blue', 'blue'],
  ['yellow', 'yellow'],
] as const
const WIDTHS = [0.11, 0.187, 0.205, 0.25].map((width) => [width, `${width.toFixed(3)} in`] as const)
const STUDS = ['4', '6', '8', '10', '1/4', '5/16'].map((one) => [one, one.includes('/') ? `${one} in` : `#${one}`] as const)
const PATTERNS = ['5-15', '5-20', '6-15', '6-20', '6-30', '6-50', '7-15', '7-20', '7-30'].map((one) => [one, one] as const)

const either = (value: number | null | undefined, to: (value: number) => number) => (value === null || value === undefined ? null : to(value))

/** Leads inside the equipment that are mended or replaced: size, jacket, crimp, terminal, strands. */
export function LeadsForm({ leads, set }: { leads: readonly Lead[]; set: (leads: Lead[]) => void }) {
  return (
    <>
      {leads.map((lead, i) => {
        const put = (more: Partial<Lead>) => set(changed(leads, i, more))
        return (
          <fieldset key={rowKey(lead)}>
            <legend>{lead.name}</legend>
            <div className="part-fields">
              <TextField label="Lead" value={lead.name} set={(name) => name.trim() && put({ name })} />
              <ChoiceField label="New lead" value={lead.size_awg} options={SMALL} set={(size) => size !== null && put({ size_awg: size })} />
              <ChoiceField label="Old lead" value={lead.was_awg} options={SMALL} set={(was_awg) => put({ was_awg })} />
              <NumberField label="Amps in it" unit="A" value={lead.amps} set={(amps) => put({ amps })} />
              <NumberField label="Jacket rating" unit="°F" value={either(lead.jacket_c, fahrenheitOf)} set={(f) => put({ jacket_c: either(f, celsiusOf) })} />
              <NumberField
                label="Old jacket rating"
                unit="°F"
                value={either(lead.was_jacket_c, fahrenheitOf)}
                set={(f) => put({ was_jacket_c: either(f, celsiusOf) })}
              />
              <ChoiceField label="Crimp sleeve" value={lead.barrel} options={SLEEVES} set={(barrel) => put({ barrel })} />
              <ChoiceField label="Spade for" value={lead.spade_in} options={WIDTHS} set={(spade_in) => put({ spade_in })} />
              <ChoiceField label="Tab is" value={lead.tab_in} options={WIDTHS} set={(tab_in) => put({ tab_in })} />
              <ChoiceField label="Ring or fork for" value={lead.ring} options={STUDS} set={(ring) => put({ ring })} />
              <ChoiceField label="Screw is" value={lead.stud} options={STUDS} set={(stud) => put({ stud })} />
              <YesNoField label="Fork was trimmed" value={lead.fork_trimmed} set={(fork_trimmed) => put({ fork_trimmed })} />
              <NumberField label="Strands" unit="" whole value={lead.strands} set={(strands) => put({ strands })} />
              <NumberField label="Strands in the crimp" unit="" whole value={lead.strands_left} set={(strands_left) => put({ strands_left })} />
            </div>
            <Button type="link" aria-label={`Remove: ${lead.name}`} onClick={() => set(without(leads, i))}>
              Remove
            </Button>
          </fieldset>
        )
      })}
      <p className="keep">
        <Button onClick={() => set([...leads, { name: `lead ${leads.length + 1}`, size_awg: 16 }])}>Add a lead</Button>
      </p>
    </>
  )
}

/** Cord and plug of a unit that is plugged in. */
export function CordsForm({ cords, set }: { cords: readonly Cord[]; set: (cords: Cord[]) => void }) {
  return (
    <>
      {cords.map((cord, i) => {
        const put = (more: Partial<Cord>) => set(changed(cords, i, more))
        return (
          <fieldset key={rowKey(cord)}>
            <legend>{cord.name}</legend>
            <div className="part-fields">
              <ChoiceField label="Plug" value={cord.plug} options={PATTERNS} set={(plug) => put({ plug })} />
              <ChoiceField label="Receptacle" value={cord.receptacle} options={PATTERNS} set={(receptacle) => put({ receptacle })} />
              <YesNoField label="Alone on its circuit" value={cord.alone} set={(yes) => put({ alone: yes ?? true })} />
              <YesNoField label="LCDI or AFCI in its cord" value={cord.protected} set={(yes) => put({ protected: yes })} />
            </div>
            <Button type="link" aria-label={`Remove: ${cord.name}`} onClick={() => set(without(cords, i))}>
              Remove
            </Button>
          </fieldset>
        )
      })}
      {cords.length ? null : (
        <p className="keep">
          <Button onClick={() => set([{ name: 'cord and plug', alone: true }])}>It is plugged in</Button>
        </p>
      )}
    </>
  )
}

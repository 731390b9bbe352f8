import { METALS } from '../../entities/circuit/parts'
import { ChoiceField, NumberField, YesNoField } from '../../shared/fields'
import { changed, rowKey } from '../../shared/rows'
import { celsiusOf, fahrenheitOf, feetOf, inchesOf, metresOf, mmOf } from '../../shared/units'
import { INSULATIONS, ODD_COLOURS, oddColour, type Sheet, SIZES } from './sheet'

type Run = Sheet['runs'][number]

const TERMINALS = [
  [60, '60 °C, or no mark'],
  [75, '75 °C'],
] as const
const RACEWAYS = [
  ['plastic', 'plastic conduit'],
  ['aluminium', 'aluminum conduit'],
  ['steel', 'steel conduit'],
] as const
const METHODS = [
  ['metal conduit or EMT', 'metal conduit or EMT'],
  ['flexible metal conduit', 'flexible metal conduit'],
  ['liquidtight flexible metal conduit', 'liquidtight metal'],
  ['plastic conduit or liquidtight nonmetallic', 'plastic, liquidtight plastic'],
  ['MC cable', 'MC cable'],
  ['cable with its own ground', 'cable with its own ground'],
] as const

const either = <T,>(value: number | null | undefined, to: (value: number) => T) => (value === null || value === undefined ? null : to(value))

/** Every run of conductors: what it is, where it runs, and what may be its grounding path. */
export function RunsForm({ runs, set }: { runs: readonly Run[]; set: (runs: Run[]) => void }) {
  return runs.map((run, i) => {
    const put = (more: Partial<Run>) => set(changed(runs, i, more))
    return (
      <fieldset key={rowKey(run)}>
        <legend>{run.name}</legend>
        <div className="part-fields">
          <ChoiceField label="Size" value={run.size_awg} options={SIZES} set={(size) => size !== null && put({ size_awg: size })} />
          <NumberField label="In parallel" unit="" whole value={run.parallel} set={(parallel) => put({ parallel: parallel ?? 1 })} />
          <ChoiceField label="Metal" value={run.metal} options={METALS} set={(metal) => metal && put({ metal })} />
          <ChoiceField label="Insulation" value={run.insulation} options={INSULATIONS} set={(insulation) => put({ insulation })} />
          <ChoiceField label="Terminals" value={run.terminals_c} options={TERMINALS} set={(terminals_c) => put({ terminals_c })} />
          <NumberField label="One way" unit="ft" value={either(run.length_m, feetOf)} set={(feet) => put({ length_m: either(feet, metresOf) })} />
          <NumberField label="Hottest ambient" unit="°F" value={either(run.ambient_c, fahrenheitOf)} set={(f) => put({ ambient_c: either(f, celsiusOf) })} />
          <NumberField label="Current-carrying" unit="" whole value={run.carrying} set={(carrying) => put({ carrying })} />
          <NumberField
            label="Above a roof, in sun"
            unit="in"
            value={either(run.above_roof_mm, inchesOf)}
            set={(inch) => put({ above_roof_mm: either(inch, mmOf) })}
          />
          <ChoiceField label="In" value={run.raceway} options={RACEWAYS} set={(raceway) => put({ raceway })} />
          <ChoiceField label="Ground wire" value={run.grounding_awg} options={SIZES} set={(grounding_awg) => put({ grounding_awg })} />
          <ChoiceField label="Runs in" value={run.method} options={METHODS} set={(method) => put({ method })} />
          <NumberField
            label="Flexible, altogether"
            unit="ft"
            value={either(run.flexible_m, feetOf)}
            set={(feet) => put({ flexible_m: either(feet, metresOf) })}
          />
          <NumberField label="Flexible, trade size" unit="in" value={run.trade_size_in} set={(trade_size_in) => put({ trade_size_in })} />
          <YesNoField label="Bends or shakes in use" value={run.moves} set={(moves) => put({ moves })} />
          <YesNoField label="In the wet" value={run.wet} set={(wet) => put({ wet })} />
          <ChoiceField
            label="A leg is white or green"
            value={oddColour(run.hot_colours)}
            options={ODD_COLOURS}
            set={(colour) => put({ hot_colours: colour === null ? [] : colour === 'neither' ? ['black', 'red'] : ['black', colour] })}
          />
          <YesNoField label="Marked again, in a cable" value={run.marked_again} set={(yes) => put({ marked_again: yes ?? false, in_cable: yes ?? false })} />
        </div>
      </fieldset>
    )
  })
}

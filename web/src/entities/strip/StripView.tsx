import type { Circuit, LaneState, ShownLook, Strip, StripRow, Suspect, Workbench } from '../../api/schema.gen'
import { shown } from '../../shared/units'
import { HEAD_HEIGHT, isOpen, lanesOf, ROW_HEIGHT } from './geometry'
import { placesOf } from './places'
import { rowsOf } from './rows'
import { SectionDrawing } from './SectionDrawing'
import { handsFull, type Setup, type SetupAction } from './setup'

export type StripProps = {
  circuit: Circuit
  strip: Strip
  setup: Setup
  suspects: readonly Suspect[]
  /** What the leading explanation makes of every point, state by state. */
  states: readonly LaneState[]
  panelShut: boolean
  looks: readonly ShownLook[]
  /** Volts that each part should lose and does, where that was read. */
  treads?: Workbench['treads']
  /** How many photos were taken at each part. */
  photos?: ReadonlyMap<string, number>
  /** How wide the lanes of a section may be, in pixels. */
  room: number
  dispatch: (action: SetupAction) => void
}

/** Less is not worth a word in a row: a tenth of a volt is the meter's last digit. */
const WORTH_SAYING = 0.1
const SHOWN_SUSPICION = 0.05

const photosOf = (count = 0) => (count === 0 ? '' : count === 1 ? '1 photo' : `${count} photos`)

/** The circuit as a strip: for each supply a section of rows, a lane for each conductor, points to touch, switches to flip. */
export function StripView(props: StripProps) {
  const { circuit, strip, setup, suspects, states, panelShut, looks, treads = [], photos, room, dispatch } = props
  const byHand = circuit.switches.filter((one) => !one.coil).map((one) => one.id)
  // What the explanation makes of each point is reckoned with nothing held or off.
  const known = handsFull(setup.hands)
    ? null
    : (states.find((one) => one.open_switches.length === setup.open.length && one.open_switches.every((id) => setup.open.includes(id))) ?? null)
  const suspicions = placesOf(suspects).filter((place) => place.chief.part && place.probability >= SHOWN_SUSPICION)
  const treadsOf = (row: StripRow) => treads.filter((one) => one.parts.length === 1 && one.parts[0] === row.part)
  const all = rowsOf(strip)
  return (
    <div className="strip-sections">
      {strip.sections.map((section) => {
        const lanes = lanesOf(section.lanes, room)
        return (
          <section
            key={section.root}
            className="strip"
            aria-label={`${section.title}, source at the top`}
            style={{ ['--lanes' as string]: `${lanes.width}px` }}
          >
            <div className="strip-head" style={{ height: HEAD_HEIGHT }}>
              <span>{section.title}</span>
            </div>
            {section.rows.map((row) => (
              <div key={row.part} className={`strip-row ${row.zone === 'panel' && panelShut ? 'shut' : ''}`} style={{ height: ROW_HEIGHT }}>
                <div className="strip-label">
                  <strong>{row.name}</strong>
                  {row.switch ? <Lost treads={treadsOf(row)} /> : null}
                  <span className="quiet">{[row.device, row.detail, photosOf(photos?.get(row.part))].filter(Boolean).join(' · ') || row.point_name}</span>
                </div>
                {row.switch ? (
                  <SwitchOf row={row} circuit={circuit} setup={setup} known={known} byHand={byHand} rows={all} dispatch={dispatch} />
                ) : (
                  <Lost treads={treadsOf(row)} due />
                )}
              </div>
            ))}
            <SectionDrawing
              section={section}
              lanes={lanes}
              known={known}
              byHand={byHand}
              suspicions={suspicions}
              setup={setup}
              panelShut={panelShut}
              looks={looks}
              dispatch={dispatch}
            />
          </section>
        )
      })}
      <p className="lane-legend quiet">
        <i className="live" /> live <i className="floating" /> floating <i className="dead" /> dead, in the leading explanation
      </p>
    </div>
  )
}

/** What a part was read to lose, against what it should; where it was not read, what is due at the amps that flow. */
function Lost({ treads, due = false }: { treads: Workbench['treads']; due?: boolean }) {
  const read = treads.filter((one) => one.standing !== 'unread')
  const worst = [...read].sort((a, b) => (b.excess_volts ?? 0) - (a.excess_volts ?? 0))[0]
  if (!worst) {
    const most = Math.max(...treads.filter((one) => one.amps_by !== 'plates').map((one) => one.expected_volts))
    return due && most >= WORTH_SAYING ? <span className="lost due">should lose {shown(Number(most.toPrecision(2)))} V</span> : <span />
  }
  const should = shown(Number(worst.expected_volts.toPrecision(2)))
  return (
    <span className={`lost ${worst.standing}`}>
      {worst.lane} loses {shown(worst.measured_volts ?? 0)} V{worst.standing === 'high' ? `, not ${should}` : `, of ${should}`}
    </span>
  )
}

type SwitchProps = {
  row: StripRow
  circuit: Circuit
  setup: Setup
  known: LaneState | null
  byHand: readonly string[]
  rows: readonly StripRow[]
  dispatch: StripProps['dispatch']
}

function SwitchOf({ row, circuit, setup, known, byHand, rows, dispatch }: SwitchProps) {
  const known_ = circuit.switches.find((one) => one.id === row.switch)
  if (!known_ || rows.find((one) => one.switch === row.switch) !== row) return <span />
  const out = isOpen({ ...row, normally_closed: false }, setup.open, known, byHand)
  if (known_.coil) {
    // Its coil moves it: what is shown is where the leading explanation has it.
    const position = known === null ? 'follows its coil' : known.chatters ? 'chatters' : out ? known_.open : known_.closed
    return <span className="follows">{position}</span>
  }
  return (
    <button
      type="button"
      role="switch"
      aria-checked={!out}
      aria-label={`${known_.name}: ${out ? known_.open : known_.closed}`}
      className={`flip ${out ? 'is-open' : ''}`}
      onClick={() => dispatch({ do: 'flip', switch: known_.id, rows })}
    >
      <i />
      {out ? known_.open : known_.closed}
    </button>
  )
}

import { useEffect, useRef } from 'react'

import type { Circuit, Look, NextTest, SignKind, Strip, StripRow } from '../../api/schema.gen'
import { LookChoice } from './LookChoice'
import { HandsChoice, nameOf } from './HandsChoice'
import { GROUND, handsFull, type Held, isProbes, measurementOf, type Mode, type Setup, type SetupAction, unitOfMode, valueOf, WORDS } from './setup'
import { rangesWords, signOf } from './words'
import { WordChoice } from './WordChoice'

type Props = {
  circuit: Circuit
  strip: Strip
  setup: Setup
  signs: readonly SignKind[]
  dispatch: (action: SetupAction) => void
  busy: boolean
  problem: string
  doubt: string
  record: (confirmed: boolean) => void
  look: (found: Omit<Look, 'id'>) => void
  takeBack: () => void
  wide: boolean
  test: NextTest | null
}

const MODES: { mode: Mode; label: string; says: string }[] = [
  { mode: 'hi_z', label: 'V~', says: 'Volts, 10 megohm input' },
  { mode: 'lo_z', label: 'LoZ', says: 'Volts, low-impedance input' },
  { mode: 'amps', label: 'A~', says: 'Amps, clamp around one conductor' },
  { mode: 'ohm', label: 'Ω', says: 'Ohms, where it is locked out and proved dead' },
  { mode: 'look', label: 'Look', says: 'Look at a part' },
  { mode: 'watching', label: 'Runs?', says: 'Watch and hear a load or a contactor' },
  { mode: 'near', label: 'Tester', says: 'Non-contact tester' },
  { mode: 'warmth', label: '°F', says: 'Heat against its mates, infrared' },
  { mode: 'insulation', label: 'MΩ', says: 'Insulation test, locked out and proved dead, electronics unplugged' },
]
const TURNING = { mode: 'turning', label: '1-2-3', says: 'Phase sequence, clips on three legs' } as const
const PHONE_KEYS = ['7', '8', '9', '⌫', '4', '5', '6', '.', '1', '2', '3', '0']
const DESK_KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0', '.', '⌫']
const OHM_KEYS = ['k', 'M', 'OL']

/** What is in the hand, where it is, and the number or word it gives. */
export function EntryPanel(props: Props) {
  const { circuit, strip, setup, signs, dispatch, busy, problem, doubt, record, look, takeBack, wide, test } = props
  const input = useRef<HTMLInputElement>(null)
  const measurement = measurementOf(setup)
  const ready = measurement !== null && valueOf(setup) !== null && !busy
  const unit = unitOfMode(setup.mode)
  const turns = strip.sections.some((section) => section.rows.some((row) => row.turns))
  const words = unit !== '' && WORDS[unit] !== undefined
  useEffect(() => {
    if (!setup.asked.length) return
    input.current?.focus({ preventScroll: true })
    document.querySelector('.touch.red, .touch.clamped')?.scrollIntoView({ block: 'nearest' })
  }, [setup.asked])
  return (
    <section className={`entry ${measurement ? 'set-up' : ''}`} aria-label="Reading to enter">
      <div className="modes" role="group" aria-label="Meter">
        {[...MODES, ...(turns ? [TURNING] : [])].map(({ mode, label, says }) => (
          <button key={mode} type="button" aria-pressed={setup.mode === mode} aria-label={`${label}: ${says}`} onClick={() => dispatch({ do: 'mode', mode })}>
            {label}
          </button>
        ))}
      </div>
      {setup.mode === 'amps' ? (
        <>
          <label className="together">
            <input type="checkbox" checked={setup.together} onChange={() => dispatch({ do: 'together' })} /> Several conductors in the jaws <span className="quiet">(their phasor sum)</span>
          </label>
          <label className="together">
            <input type="checkbox" checked={setup.start} onChange={() => dispatch({ do: 'start' })} /> At the start <span className="quiet">(inrush, highest amps)</span>
          </label>
        </>
      ) : null}
      {setup.mode === 'ohm' || setup.mode === 'insulation' ? <p className="caution bare">Only locked out and proved dead; leads zeroed.</p> : null}
      <p className="entry-place" aria-live="polite">
        {whereWords(strip, setup)}
        <span className="quiet"> · {stateWords(circuit, setup.open, setup.hands)}</span>
      </p>
      <HandsChoice circuit={circuit} strip={strip} setup={setup} dispatch={dispatch} />
      {test && setup.asked.length && unit ? <Expectations test={test} at={test.measurements.length - setup.asked.length} unit={unit} /> : null}
      {setup.mode === 'look' ? (
        <LookChoice strip={strip} picked={setup.picked} signs={signs} busy={busy} look={look} />
      ) : (
        <form
          className="entry-number"
          onSubmit={(event) => {
            event.preventDefault()
            if (ready) record(false)
          }}
        >
          {words ? (
            <WordChoice unit={unit} chosen={setup.text} choose={(value) => dispatch({ do: 'choose', value })} />
          ) : (
            <label className="number-box">
              <input
                ref={input}
                inputMode="none"
                autoComplete="off"
                aria-label={`Number the meter shows, ${unit}`}
                placeholder="0.0"
                className="num"
                value={setup.text}
                onChange={(event) => dispatch({ do: 'type', text: event.target.value })}
              />
              <span className="num unit">{signOf(unit)}</span>
            </label>
          )}
          <button type="submit" className="accent-button" disabled={!ready}>
            {busy ? 'Recording …' : 'Record'}
          </button>
        </form>
      )}
      {doubt ? (
        <div className="problem" role="alert">
          <p>{doubt}</p>
          <button type="button" className="plain-button" onClick={() => record(true)}>
            Yes, that is what it shows
          </button>
          <button type="button" className="plain-button" onClick={takeBack}>
            Correct it
          </button>
        </div>
      ) : null}
      {problem ? (
        <p className="problem" role="alert">
          {problem}
        </p>
      ) : null}
      {words || setup.mode === 'look' ? null : (
        <div className={`pad ${unit === 'ohm' ? 'ohms' : ''}`} role="group" aria-label="Number pad">
          {[...(wide ? DESK_KEYS : PHONE_KEYS), ...(unit === 'ohm' ? OHM_KEYS : [])].map((key) => (
            <button key={key} type="button" className="num" aria-label={key === '⌫' ? 'Delete last digit' : key} onClick={() => dispatch({ do: 'key', key })}>
              {key}
            </button>
          ))}
        </div>
      )}
    </section>
  )
}

/** What the leading suspects make the meter show, beside the number being typed. */
function Expectations({ test, at, unit }: { test: NextTest; at: number; unit: string }) {
  return (
    <ul className="expectations">
      {test.predictions.slice(0, 3).map((one) => (
        <li key={one.suspects.join()}>
          <b className="num">{rangesWords(one.ranges[at] ?? [], unit)}</b> {one.words[0]}
          {one.words.length > 1 ? ` and ${one.words.length - 1} more` : ''}
        </li>
      ))}
    </ul>
  )
}

function whereTurning(rows: readonly StripRow[], part: string | null): string {
  const row = rows.find((one) => one.part === part && one.turns)
  return row ? `Clips 1, 2, 3 on L1, L2, L3 at ${row.point_name}` : 'Touch a row with three legs'
}

const POINTING: Partial<Record<Mode, [string, string]>> = {
  look: ['Look at', 'Touch the part you look at'],
  watching: ['Watch and hear', 'Touch a load or a contactor'],
  near: ['Tester on', 'Touch the conductor it is held to'],
  warmth: ['Heat of', 'Touch the joint or device you aim at'],
}

function whereWords(strip: Strip, setup: Setup): string {
  const rows = strip.sections.flatMap((section) => section.rows)
  const pointing = POINTING[setup.mode]
  if (pointing) {
    const row = rows.find((one) => one.part === setup.picked?.part)
    return row && setup.picked ? `${pointing[0]} ${setup.picked.leg ? `${setup.picked.leg}, ` : ''}${row.name}` : pointing[1]
  }
  if (setup.mode === 'amps') {
    const row = rows.find((one) => one.part === setup.clamp?.part)
    if (!row || !setup.clamp) return 'Touch the wire to clamp'
    const also = setup.clamp.also ?? []
    return `Clamp around ${[setup.clamp.leg, ...also].join(' and ')} ${also.length ? 'together' : 'alone'}, at the ${row.name}`
  }
  if (!isProbes(setup.mode)) return whereTurning(rows, setup.turning)
  const say = (point: string) => {
    if (point === GROUND) return 'ground'
    const [leg, part] = point.split('@')
    if (part && setup.hands.removed.includes(part)) return `${leg} of the ${nameOf(strip, part)}’s own leads`
    const row = rows.find((one) => Object.values(one.points).includes(point))
    return `${leg} ${row?.point_name ?? ''}`
  }
  if (setup.black && setup.red) return `Black on ${say(setup.black)}, red on ${say(setup.red)}`
  const placed = setup.black ?? setup.red
  return placed ? `One probe on ${say(placed)}: touch the other point` : 'Touch two points on the strip'
}

function stateWords(circuit: Circuit, open: readonly string[], hands: Held): string {
  const said = circuit.switches.filter((one) => open.includes(one.id)).map((one) => `${one.name.toLowerCase()} ${one.open}`)
  // What is held or off stands below, each with its own button.
  return said.length ? said.join(', ') : handsFull(hands) ? 'all switches closed' : 'all closed, load called'
}

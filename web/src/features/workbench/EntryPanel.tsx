import { useEffect, useRef } from 'react'

import type { Circuit, NextTest, Strip } from '../../api/schema.gen'
import { rangesWords } from './words'
import { GROUND, measurementOf, type Mode, type Setup, type SetupAction, valueOf } from './setup'

type Props = {
  circuit: Circuit
  strip: Strip
  setup: Setup
  dispatch: (action: SetupAction) => void
  busy: boolean
  problem: string
  doubt: string
  record: (confirmed: boolean) => void
  takeBack: () => void
  wide: boolean
  test: NextTest | null
}

const MODES: { mode: Mode; label: string; says: string }[] = [
  { mode: 'hi_z', label: 'V~', says: 'Volts, 10 megohm input' },
  { mode: 'lo_z', label: 'V~ LoZ', says: 'Volts, low-impedance input' },
  { mode: 'amps', label: 'A~ clamp', says: 'Amps, clamp around one conductor' },
]
const PHONE_KEYS = ['7', '8', '9', '⌫', '4', '5', '6', '.', '1', '2', '3', '0']
const DESK_KEYS = ['1', '2', '3', '4', '5', '6', '7', '8', '9', '0', '.', '⌫']

/** Probes as they are set, the number, and the pad to type it with. */
export function EntryPanel({ circuit, strip, setup, dispatch, busy, problem, doubt, record, takeBack, wide, test }: Props) {
  const input = useRef<HTMLInputElement>(null)
  const measurement = measurementOf(setup)
  const ready = measurement !== null && valueOf(setup) !== null && !busy
  const unit = setup.mode === 'amps' ? 'A' : 'V'
  useEffect(() => {
    if (!setup.asked.length) return
    input.current?.focus({ preventScroll: true })
    document.querySelector('.touch.red, .touch.clamped')?.scrollIntoView({ block: 'nearest' })
  }, [setup.asked])
  return (
    <section className={`entry ${measurement ? 'set-up' : ''}`} aria-label="Reading to enter">
      <div className="modes" role="group" aria-label="Meter">
        {MODES.map(({ mode, label, says }) => (
          <button key={mode} type="button" aria-pressed={setup.mode === mode} aria-label={says} onClick={() => dispatch({ do: 'mode', mode })}>
            {label}
          </button>
        ))}
      </div>
      {setup.mode === 'amps' ? (
        <label className="together">
          <input type="checkbox" checked={setup.together} onChange={() => dispatch({ do: 'together' })} /> Several conductors in the jaws <span className="quiet">(their phasor sum)</span>
        </label>
      ) : null}
      <p className="entry-place" aria-live="polite">
        {whereWords(strip, setup)}
        <span className="quiet"> · {stateWords(circuit, setup.open)}</span>
      </p>
      {test && setup.asked.length ? <Expectations test={test} at={test.measurements.length - setup.asked.length} unit={unit} /> : null}
      <form
        className="entry-number"
        onSubmit={(event) => {
          event.preventDefault()
          if (ready) record(false)
        }}
      >
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
          <span className="num unit">{unit}~</span>
        </label>
        <button type="submit" className="accent-button" disabled={!ready}>
          {busy ? 'Recording …' : 'Record'}
        </button>
      </form>
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
      <div className="pad" role="group" aria-label="Number pad">
        {(wide ? DESK_KEYS : PHONE_KEYS).map((key) => (
          <button key={key} type="button" className="num" aria-label={key === '⌫' ? 'Delete last digit' : key} onClick={() => dispatch({ do: 'key', key })}>
            {key}
          </button>
        ))}
      </div>
    </section>
  )
}

/** What the number about to be typed would mean, while the test that asks for it is at hand. */
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

function whereWords(strip: Strip, setup: Setup): string {
  const rows = strip.sections.flatMap((section) => section.rows)
  if (setup.mode === 'amps') {
    const row = rows.find((one) => one.part === setup.clamp?.part)
    if (!row || !setup.clamp) return 'Touch the wire to clamp'
    const also = setup.clamp.also ?? []
    return `Clamp around ${[setup.clamp.leg, ...also].join(' and ')} ${also.length ? 'together' : 'alone'}, at the ${row.name}`
  }
  const say = (point: string) => {
    if (point === GROUND) return 'ground'
    const [leg] = point.split('@')
    const row = rows.find((one) => Object.values(one.points).includes(point))
    return `${leg} ${row?.point_name ?? ''}`
  }
  if (setup.black && setup.red) return `Black on ${say(setup.black)}, red on ${say(setup.red)}`
  const placed = setup.black ?? setup.red
  return placed ? `One probe on ${say(placed)}: touch the other point` : 'Touch two points on the strip'
}

export function stateWords(circuit: Circuit, open: readonly string[]): string {
  const said = circuit.switches.filter((one) => open.includes(one.id)).map((one) => `${one.name.toLowerCase()} ${one.open}`)
  return said.length ? said.join(', ') : 'all closed, load called'
}

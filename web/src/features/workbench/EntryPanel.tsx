import { useId, useState } from 'react'

import { KINDS } from '../../api/observations.gen'
import type { Circuit, Look, NextTest, SignKind, Strip, StripRow } from '../../api/schema.gen'
import { rangesWords, switchWords } from '../../entities/reading/words'
import { rowsOf } from '../../entities/strip/rows'
import {
  handsFull,
  type Held,
  isProbes,
  type Kind,
  LOOK,
  type Mode,
  readyOf,
  type Setup,
  type SetupAction,
  unitOfMode,
  valuesOf,
  whyNotReady,
} from '../../entities/strip/setup'
import { GROUND, partsOf } from '../../shared/point'
import { HandsChoice, nameOf } from './HandsChoice'
import { LookChoice } from './LookChoice'
import { labelsOf, Numbers } from './Numbers'

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
  test: NextTest | null
}

const MODES: { mode: Mode; label: string; says: string }[] = [
  { mode: 'hi_z', label: 'V', says: 'Volts, 10 megohm input' },
  { mode: 'lo_z', label: 'LoZ', says: 'Volts, low-impedance input' },
  { mode: 'around', ...KINDS.around },
  { mode: 'ohm', label: 'Ω', says: 'Ohms, where it is locked out and proved dead' },
  { mode: 'look', label: 'Look', says: 'Look at a part' },
]
const INSULATION = { mode: 'insulation', label: 'MΩ', says: 'Insulation test, locked out and proved dead, electronics unplugged' } as const

/** What can be in the hand on a strip: the probes, the clamp, and whatever some row of it can be read by. */
function modesOf(rows: readonly StripRow[]): { mode: Mode; label: string; says: string }[] {
  const kinds = (Object.keys(KINDS) as Kind[]).filter((kind) => kind !== 'around' && rows.some((row) => row.takes.includes(kind)))
  return [...MODES, ...kinds.map((kind) => ({ mode: kind, ...KINDS[kind] })), INSULATION]
}
/** One order everywhere, as on a telephone, so that the thumb learns it once. */
const KEYS = ['1', '2', '3', '⌫', '4', '5', '6', '7', '8', '9', '.', '0']
const NAMES: Record<string, string> = { '⌫': 'delete', '.': 'point' }
const OHM_KEYS = ['k', 'M', 'OL']

/** What is in the hand, where it is, and the numbers or words that it gives. */
export function EntryPanel(props: Props) {
  const { circuit, strip, setup, signs, dispatch, busy, problem, doubt, record, look, takeBack, test } = props
  const [choosing, setChoosing] = useState(false)
  const [folded, setFolded] = useState(false)
  const ready = readyOf(setup)
  const unit = unitOfMode(setup.mode)
  const words = valuesOf(unit).length > 0
  const modes = modesOf(rowsOf(strip))
  const why = whyNotReady(setup)
  const padded = !words && setup.mode !== 'look'
  const form = useId()
  return (
    <section
      className={`entry ${ready.length || setup.asked.length || setup.byHand ? 'set-up' : ''} ${folded ? 'folded' : ''} ${choosing || setup.mode === 'ohm' || setup.mode === 'insulation' ? 'choosing' : ''}`}
      aria-label="Reading to enter"
    >
      <div className="entry-head">
        <button type="button" className="plain-button meter-button" aria-expanded={choosing} onClick={() => setChoosing(!choosing)}>
          <b className="num">{modes.find((one) => one.mode === setup.mode)?.label}</b> <span className="quiet">Meter</span>
        </button>
        <p className="entry-place" aria-live="polite">
          {setup.asked.length > 1 && test ? placeOfCard(test) : whereWords(strip, setup)}
          <span className="quiet"> · {stateWords(circuit, setup.open, setup.hands)}</span>
        </p>
        <button
          type="button"
          className="plain-button fold"
          aria-expanded={!folded}
          aria-label={folded ? 'Show the pad' : 'Hide the pad'}
          onClick={() => setFolded(!folded)}
        >
          {folded ? '▴' : '▾'}
        </button>
      </div>
      <div className="modes" role="group" aria-label="Meter" data-open={choosing}>
        {modes.map(({ mode, label, says }) => (
          <button
            key={mode}
            type="button"
            aria-pressed={setup.mode === mode}
            aria-label={`${label}: ${says}`}
            title={says}
            onClick={() => {
              setChoosing(false)
              dispatch({ do: 'mode', mode })
            }}
          >
            {label}
          </button>
        ))}
      </div>
      {setup.mode === 'around' ? (
        <div className="clamp-ways">
          <label className="together">
            <input type="checkbox" checked={setup.together} onChange={() => dispatch({ do: 'together' })} /> Several conductors in the jaws
          </label>
          <label className="together">
            <input type="checkbox" checked={setup.start} onChange={() => dispatch({ do: 'start' })} /> Inrush, highest amps at start
          </label>
        </div>
      ) : null}
      {setup.mode === 'ohm' || setup.mode === 'insulation' ? <p className="caution bare">Only locked out and proved dead; leads zeroed.</p> : null}
      {test && setup.asked.length && unit ? <Expectations test={test} at={setup.at} unit={unit} /> : null}
      {setup.mode === 'look' ? (
        <LookChoice strip={strip} picked={setup.picked} signs={signs} busy={busy} look={look} />
      ) : (
        <form
          id={form}
          className={`entry-number ${setup.asked.length > 1 ? 'several' : ''}`}
          onSubmit={(event) => {
            event.preventDefault()
            if (ready.length && !why && !busy) record(false)
          }}
        >
          <Numbers setup={setup} test={test} dispatch={dispatch} />
          <button type="submit" className={`accent-button ${padded ? 'beside-pad' : ''}`} disabled={!ready.length || why !== '' || busy}>
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
      {why || problem ? (
        <p className="problem" role="alert">
          {why || problem}
        </p>
      ) : null}
      {padded ? (
        <div className={`pad ${unit === 'ohm' ? 'ohms' : ''}`} role="group" aria-label="Number pad">
          {[...KEYS, ...(unit === 'ohm' ? OHM_KEYS : [])].map((key) => (
            // The field keeps the focus, so that keys and keyboard go on in the same place.
            <button
              key={key}
              type="button"
              className={`num key-${NAMES[key] ?? key}`}
              aria-label={key === '⌫' ? 'Delete last digit' : key}
              onPointerDown={(event) => event.preventDefault()}
              onClick={() => dispatch({ do: 'key', key })}
            >
              {key}
            </button>
          ))}
          <button
            type="button"
            className="pad-next"
            disabled={setup.at >= setup.asked.length - 1}
            onPointerDown={(event) => event.preventDefault()}
            onClick={() => dispatch({ do: 'go', at: setup.at + 1 })}
          >
            Next
          </button>
          <button type="submit" form={form} className="accent-button pad-record" disabled={!ready.length || why !== '' || busy}>
            {busy ? '…' : 'Record'}
          </button>
        </div>
      ) : null}
      <HandsChoice circuit={circuit} strip={strip} setup={setup} dispatch={dispatch} />
    </section>
  )
}

/** Where all readings of a card are taken. */
function placeOfCard(test: NextTest): string {
  const { common } = labelsOf(test.words)
  return common ? `${common[0]?.toUpperCase() ?? ''}${common.slice(1)}` : 'What the card asks'
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

function whereWords(strip: Strip, setup: Setup): string {
  const rows = rowsOf(strip)
  if (setup.mode === 'around') {
    const row = rows.find((one) => one.part === setup.clamp?.part)
    if (!row || !setup.clamp) return KINDS.around.missing
    const also = setup.clamp.also ?? []
    return `${KINDS.around.touch} ${[setup.clamp.leg, ...also].join(' and ')} ${also.length ? 'together' : 'alone'}, at the ${row.name}`
  }
  if (!isProbes(setup.mode)) {
    const { touch, missing } = setup.mode === 'look' ? LOOK : KINDS[setup.mode]
    const row = rows.find((one) => one.part === setup.picked?.part)
    if (!row || !setup.picked) return missing
    if (setup.mode !== 'look' && KINDS[setup.mode].picks === 'legs') return `Clips 1, 2, 3 on L1, L2, L3 at ${row.point_name}`
    return `${touch} ${setup.picked.leg ? `${setup.picked.leg}, ` : ''}${row.name}`
  }
  const say = (point: string) => {
    if (point === GROUND) return 'ground'
    const { lane: leg, part } = partsOf(point)
    if (part && setup.hands.removed.includes(part)) return `${leg} of the ${nameOf(strip, part)}’s own leads`
    const row = rows.find((one) => Object.values(one.points).includes(point))
    return `${row?.marks[leg] ?? leg} ${row?.point_name ?? ''}`
  }
  if (setup.black && setup.red) return `Black on ${say(setup.black)}, red on ${say(setup.red)}`
  const placed = setup.black ?? setup.red
  return placed ? `One probe on ${say(placed)}: touch the other point` : 'Touch two points on the strip'
}

function stateWords(circuit: Circuit, open: readonly string[], hands: Held): string {
  // What is held or off stands below, each with its own button.
  return switchWords(circuit, open) || (handsFull(hands) ? 'all switches closed' : 'all closed, unit calling')
}

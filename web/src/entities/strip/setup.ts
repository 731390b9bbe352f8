import { KINDS, OL_OHM, UNITS } from '../../api/observations.gen'
import type { Hands, Measurement, MeterMode, NextTest, Reading, StripRow } from '../../api/schema.gen'
import { numberOf } from '../../shared/numbers'
import { partsOf, pointAt } from '../../shared/point'

/** What is in the hand; eyes and ears count. */
export type Mode = MeterMode | Kind | 'look'

/** What is read by something beside two probes. */
export type Kind = keyof typeof KINDS

/** A row of the strip, and the conductor where that matters. */
export type Picked = { part: string; leg: string | null }

/** Contacts held by hand, leads lifted and parts taken out. */
export type Held = { [field in keyof Hands]-?: readonly string[] }
export const FREE: Held = { pushed_in: [], held_out: [], lifted: [], removed: [] }
export const heldOf = (hands: Hands | undefined): Held => ({ ...FREE, ...hands })

/** What is set up for the next reading: probes or clamp, meter, switches, and the number being typed. */
export type Setup = {
  mode: Mode
  black: string | null
  red: string | null
  clamp: { leg: string; part: string; also?: readonly string[] } | null
  /** Where the clips, the tester, the thermometer, the eye or the ear is. */
  picked: Picked | null
  /** Whether further conductors join those in the jaws instead of taking their place. */
  together: boolean
  /** Whether the clamp holds the highest amps of a start. */
  start: boolean
  open: readonly string[]
  /** What a hand holds or has taken off. */
  hands: Held
  /** What is typed: one text for each reading of a test that is set up, else one. */
  texts: readonly string[]
  /** Which of them is being typed. */
  at: number
  /** Readings of the test that is set up; none where a hand set it up. */
  asked: readonly Measurement[]
  /** Whether a hand set it up: the next test then waits until it is wanted. */
  byHand: boolean
}

export type SetupAction =
  | { do: 'touch'; point: string }
  | { do: 'clamp'; leg: string; part: string }
  | { do: 'together' }
  | { do: 'start' }
  | { do: 'pick'; picked: Picked }
  | { do: 'choose'; value: number }
  | { do: 'mode'; mode: Mode }
  | { do: 'hold'; field: keyof Held; id: string }
  | { do: 'let go'; field: keyof Held; id: string }
  | { do: 'flip'; switch: string; rows: readonly StripRow[] }
  | { do: 'type'; text: string }
  | { do: 'key'; key: string }
  | { do: 'accept'; measurements: readonly Measurement[]; texts?: readonly string[] }
  | { do: 'go'; at: number }
  | { do: 'clear' }
  | { do: 'recorded'; asked: readonly Measurement[]; texts: readonly string[] }

export const atRest: Setup = {
  mode: 'hi_z',
  black: null,
  red: null,
  clamp: null,
  picked: null,
  together: false,
  start: false,
  open: [],
  hands: FREE,
  texts: [''],
  at: 0,
  asked: [],
  byHand: false,
}

export function reduce(setup: Setup, action: SetupAction): Setup {
  switch (action.do) {
    case 'choose':
      return typed(setup, String(action.value))
    case 'type':
      return typed(setup, asTyped(setup.mode, action.text))
    case 'key':
      return typed(setup, keyed(setup, action.key))
    case 'accept':
      return ask({ ...setup, byHand: false, texts: action.texts ?? action.measurements.map(() => '') }, action.measurements, 0)
    case 'go':
      return setup.asked.length ? ask(setup, setup.asked, action.at) : setup
    case 'clear':
      return { ...emptyHanded(setup), texts: [''], at: 0, asked: [], byHand: true }
    case 'recorded':
      return recorded(setup, action)
    default:
      return { ...byHand(own(setup), action), byHand: true }
  }
}

/** What is left to do once numbers are recorded: another card set up, or number begun, meanwhile stays. */
function recorded(setup: Setup, { asked, texts }: { asked: readonly Measurement[]; texts: readonly string[] }): Setup {
  if (JSON.stringify(asked) !== JSON.stringify(setup.asked)) return setup
  const isSame = texts.join() === setup.texts.join()
  if (!asked.length) return { ...setup, start: false, texts: isSame ? [''] : setup.texts }
  return isSame ? { ...emptyHanded(setup), texts: [''], at: 0, asked: [] } : setup
}

/** What a hand does on the strip or with the meter. */
function byHand(setup: Setup, action: Exclude<SetupAction, { do: 'choose' | 'type' | 'key' | 'accept' | 'go' | 'clear' | 'recorded' }>): Setup {
  switch (action.do) {
    case 'touch':
      return touch(setup, action.point)
    case 'clamp':
      return { ...setup, mode: 'around', clamp: clamped(setup, action.leg, action.part) }
    case 'together':
      return { ...setup, together: !setup.together, clamp: setup.clamp && { leg: setup.clamp.leg, part: setup.clamp.part } }
    case 'start':
      return { ...setup, start: !setup.start }
    case 'pick':
      return { ...setup, picked: action.picked, texts: [''] }
    case 'mode':
      return { ...setup, mode: action.mode, picked: null, texts: [''] }
    case 'hold':
      return { ...setup, hands: held(setup.hands, action.field, action.id) }
    case 'let go':
      return letGo(setup, action.field, action.id)
    case 'flip':
      return flip(setup, action.switch, action.rows)
  }
}

/** What a test had set up goes as soon as a hand sets something else up; what a hand had set up stays. */
const own = (setup: Setup): Setup => (setup.asked.length ? { ...emptyHanded(setup), texts: [''], at: 0, asked: [] } : setup)

const emptyHanded = (setup: Setup): Setup => ({ ...setup, black: null, red: null, clamp: null, picked: null, start: false })

/** What is being typed. */
export const textOf = (setup: Setup) => setup.texts[setup.at] ?? ''

const typed = (setup: Setup, text: string): Setup => ({ ...setup, texts: setup.texts.map((one, i) => (i === setup.at ? text : one)) })

function keyed(setup: Setup, key: string): string {
  const text = textOf(setup)
  if (key === '⌫') return text === 'OL' ? '' : text.slice(0, -1)
  return key === 'OL' ? 'OL' : asTyped(setup.mode, text + key)
}

/** A contact is pushed in or kept out, never both. */
const OTHER_WAY: Partial<Record<keyof Held, keyof Held>> = { pushed_in: 'held_out', held_out: 'pushed_in' }

function held(hands: Held, field: keyof Held, id: string): Held {
  const other = OTHER_WAY[field]
  const rest = other ? { ...hands, [other]: hands[other].filter((one) => one !== id) } : hands
  return { ...rest, [field]: [...hands[field].filter((one) => one !== id), id] }
}

/** What was taken out goes back, and a probe on its own leads comes off. */
function letGo(setup: Setup, field: keyof Held, id: string): Setup {
  const hands = { ...setup.hands, [field]: setup.hands[field].filter((one) => one !== id) }
  const keep = (point: string | null) => (field === 'removed' && point?.endsWith(`@${id}`) ? null : point)
  return { ...setup, hands, black: keep(setup.black), red: keep(setup.red) }
}

/** Whether something is held, lifted or out. */
export const handsFull = (hands: Held) => Object.values(hands).some((ids) => ids.length > 0)

/** The measurement that is set up, or null while a probe is still in hand. */
export function measurementOf(setup: Setup): Measurement | null {
  const open_switches = [...setup.open].sort()
  const hands = {
    pushed_in: [...setup.hands.pushed_in].sort(),
    held_out: [...setup.hands.held_out].sort(),
    lifted: [...setup.hands.lifted].sort(),
    removed: [...setup.hands.removed].sort(),
  }
  const place = placeOf(setup)
  return place && { place, meter: isProbes(setup.mode) ? setup.mode : 'hi_z', open_switches, hands }
}

function placeOf({ mode, black, red, clamp, picked, start }: Setup): Measurement['place'] | null {
  if (isProbes(mode)) return black && red ? { kind: 'between', a: black, b: red } : null
  if (mode === 'look') return null
  if (mode === 'around') return clamp && { kind: 'around', leg: clamp.leg, part: clamp.part, also: [...(clamp.also ?? [])], start }
  if (!picked) return null
  const { part, leg } = picked
  switch (KINDS[mode].picks) {
    case 'legs':
    case 'part':
      return { kind: mode, part } as Measurement['place']
    case 'pole':
      return leg ? ({ kind: mode, part, leg } as Measurement['place']) : null
    case 'point':
      return leg ? ({ kind: mode, point: pointAt(leg, part) } as Measurement['place']) : null
  }
}

/** What is in the hand for a measurement. */
export const modeOf = ({ place, meter }: Pick<Measurement, 'place' | 'meter'>): Mode => (place.kind === 'between' ? (meter ?? 'hi_z') : place.kind)

/** The unit in which a measurement is read; of a look none. */
export function unitOfMode(mode: Mode): Reading['unit'] | '' {
  if (mode === 'look') return ''
  return isProbes(mode) ? (mode in OL_OHM ? 'ohm' : 'V') : KINDS[mode].unit
}
export const unitOf = (measurement: Measurement): Reading['unit'] => unitOfMode(modeOf(measurement)) || 'V'

/** The values of what is chosen from a few words instead of typed; of a number none. */
export const valuesOf = (unit: Reading['unit'] | ''): readonly { value: number; words: string }[] => (unit === '' ? [] : UNITS[unit].values)

const OVER: Partial<Record<Mode, number>> = OL_OHM
const SIZES: Record<string, number> = { k: 1e3, M: 1e6 }

/** The number that a text says with this in the hand, or why it is none; of ohms OL, and k and M for thousands and millions. */
export function valueIn(mode: Mode, text: string): { value: number | null; why: string } {
  const over = OVER[mode]
  if (over === undefined) return valuesOf(unitOfMode(mode)).length ? { value: text === '' ? null : Number(text), why: '' } : numberOf(text)
  if (text === 'OL') return { value: over, why: '' }
  const size = SIZES[text.slice(-1)]
  const { value, why } = numberOf(size === undefined ? text : text.slice(0, -1))
  return { value: value === null ? null : Math.min(value * (size ?? 1), over), why }
}

/** The number being typed, or null while it is none. */
export const valueOf = (setup: Setup) => valueIn(setup.mode, textOf(setup)).value

/** The readings that can be recorded: each measurement set up that has its number. */
export function readyOf(setup: Setup): { measurement: Measurement; value: number }[] {
  const all = setup.asked.length ? setup.asked : [measurementOf(setup)]
  return all.flatMap((measurement, i) => {
    const value = measurement && valueIn(modeOf(measurement), setup.texts[i] ?? '').value
    return measurement && value !== null ? [{ measurement, value }] : []
  })
}

/** Why what is typed somewhere is no number; empty where all is well. */
export const whyNotReady = (setup: Setup) =>
  setup.texts.map((text, i) => valueIn(setup.asked[i] ? modeOf(setup.asked[i]) : setup.mode, text).why).find((why) => why) ?? ''

function touch(setup: Setup, point: string): Setup {
  const mode = isProbes(setup.mode) ? setup.mode : 'hi_z'
  if (point === setup.black) return { ...setup, mode, black: null }
  if (point === setup.red) return { ...setup, mode, red: null }
  if (!setup.black) return { ...setup, mode, black: point }
  if (!setup.red) return { ...setup, mode, red: point }
  // Both are placed: the red one moves, as the hand that is free does.
  return { ...setup, mode, red: point }
}

/** Whether two probes are what is in the hand. */
export const isProbes = (mode: Mode): mode is MeterMode => mode !== 'look' && !(mode in KINDS)

/** The jaws after a touch: one conductor, or with `together` all those touched on one part. */
function clamped({ clamp, together }: Setup, leg: string, part: string): NonNullable<Setup['clamp']> {
  if (!together || clamp?.part !== part) return { leg, part }
  const held = [clamp.leg, ...(clamp.also ?? [])]
  const [first = leg, ...also] = held.includes(leg) ? held.filter((one) => one !== leg) : [...held, leg]
  return { leg: first, part, also }
}

function flip(setup: Setup, id: string, rows: readonly StripRow[]): Setup {
  const open = setup.open.includes(id) ? setup.open.filter((one) => one !== id) : [...setup.open, id]
  const gone = new Set(rows.filter((row) => row.carrier_of && open.includes(row.carrier_of)).flatMap((row) => Object.values(row.points)))
  const keep = (point: string | null) => (point && gone.has(point) ? null : point)
  return { ...setup, open, black: keep(setup.black), red: keep(setup.red) }
}

/** Sets up one reading of a test: probes, meter and switches as it wants them. */
function ask(setup: Setup, asked: readonly Measurement[], at: number): Setup {
  const first = asked[at]
  if (!first) return { ...setup, asked: [] }
  const place = first.place
  const common = { ...emptyHanded(setup), open: first.open_switches, hands: heldOf(first.hands), asked, at }
  if (place.kind === 'between') return { ...common, mode: modeOf(first), black: place.a, red: place.b }
  if (place.kind === 'around')
    return {
      ...common,
      mode: 'around',
      clamp: { leg: place.leg, part: place.part, also: place.also },
      start: place.start ?? false,
      together: (place.also ?? []).length > 0,
    }
  return { ...common, mode: place.kind, picked: pickedAt(place) }
}

function pickedAt(place: Exclude<Measurement['place'], { kind: 'between' | 'around' }>): Picked {
  if ('part' in place) return { part: place.part, leg: 'leg' in place ? place.leg : null }
  const { lane, part } = partsOf(place.point)
  return { part, leg: lane }
}

/** What is typed stays as it is; of ohms a word that begins with O is OL, and k and M stand behind the digits. */
function asTyped(mode: Mode, text: string): string {
  if (OVER[mode] === undefined) return text.slice(0, MOST_CHARACTERS)
  if (/^o/i.test(text.trim())) return 'OL'
  return text.slice(0, MOST_CHARACTERS).replace(/m$/, 'M').replace(/K$/, 'k')
}

const MOST_CHARACTERS = 9

/** Whether leaving the page would lose something: a number typed, or what a hand has placed. */
export const isWorthKeeping = ({ texts, byHand, black, red, clamp, picked }: Setup) =>
  texts.some(Boolean) || (byHand && [black, red, clamp, picked].some((one) => one !== null))

/** What a touch of the strip does with this in the hand, before the place. */
export const touchWords = (mode: Mode) => (mode === 'look' ? LOOK.touch : isProbes(mode) ? '' : KINDS[mode].touch)
export const LOOK = { touch: 'Look at', missing: 'Touch the part you look at' }

/** Whether a test asks for eyes and ears alone: it is answered on its card. */
export const isWatched = (test: NextTest) => test.measurements.length > 0 && test.measurements.every(({ place }) => place.kind === 'watching')

/** Whether a test is taken with something in the hand, which can be set up. */
export const isTaken = (test: NextTest) => !test.look && !isWatched(test)

/** Whether what is set up is this test. */
export const isAsked = (setup: Setup, test: NextTest) => setup.asked.length > 0 && setup.asked === test.measurements

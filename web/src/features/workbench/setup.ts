import type { Hands, Measurement, MeterMode, NextTest, Reading, StripRow } from '../../api/schema.gen'

export const GROUND = 'G'

/** What is in the hand; eyes and ears count. */
export type Mode = MeterMode | 'amps' | 'turning' | 'near' | 'watching' | 'warmth' | 'look'

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
  /** The part behind whose three legs the phase sequence is read. */
  turning: string | null
  /** Where the tester, the thermometer, the eye or the ear is. */
  picked: Picked | null
  /** Whether further conductors join those in the jaws instead of taking their place. */
  together: boolean
  /** Whether the clamp holds the highest amps of a start. */
  start: boolean
  open: readonly string[]
  /** What a hand holds or has taken off. */
  hands: Held
  text: string
  /** Readings of an accepted test still to be taken, the present one first. */
  asked: readonly Measurement[]
}

export type SetupAction =
  | { do: 'touch'; point: string }
  | { do: 'clamp'; leg: string; part: string }
  | { do: 'together' }
  | { do: 'start' }
  | { do: 'turn'; part: string }
  | { do: 'pick'; picked: Picked }
  | { do: 'choose'; value: number }
  | { do: 'mode'; mode: Mode }
  | { do: 'hold'; field: keyof Held; id: string }
  | { do: 'let go'; field: keyof Held; id: string }
  | { do: 'flip'; switch: string; rows: readonly StripRow[] }
  | { do: 'type'; text: string }
  | { do: 'key'; key: string }
  | { do: 'accept'; measurements: readonly Measurement[] }
  | { do: 'recorded' }

export const atRest: Setup = { mode: 'hi_z', black: null, red: null, clamp: null, turning: null, picked: null, together: false, start: false, open: [], hands: FREE, text: '', asked: [] }

export function reduce(setup: Setup, action: SetupAction): Setup {
  switch (action.do) {
    case 'touch':
      return { ...touch(setup, action.point), asked: [] }
    case 'clamp':
      return { ...setup, mode: 'amps', clamp: clamped(setup, action.leg, action.part), asked: [] }
    case 'together':
      return { ...setup, together: !setup.together, clamp: setup.clamp && { leg: setup.clamp.leg, part: setup.clamp.part }, asked: [] }
    case 'start':
      return { ...setup, start: !setup.start, asked: [] }
    case 'turn':
      return { ...setup, mode: 'turning', turning: action.part, asked: [] }
    case 'pick':
      return { ...setup, picked: action.picked, text: '', asked: [] }
    case 'choose':
      return { ...setup, text: String(action.value) }
    case 'mode':
      return { ...setup, mode: action.mode, picked: null, text: '', asked: [] }
    case 'hold':
      return { ...setup, hands: held(setup.hands, action.field, action.id), asked: [] }
    case 'let go':
      return { ...letGo(setup, action.field, action.id), asked: [] }
    case 'flip':
      return { ...flip(setup, action.switch, action.rows), asked: [] }
    case 'type':
      return { ...setup, text: tidied(setup.mode, action.text) }
    case 'key':
      return { ...setup, text: action.key === '⌫' ? setup.text.slice(0, setup.text === 'OL' ? 0 : -1) : action.key === 'OL' ? 'OL' : tidied(setup.mode, setup.text + action.key) }
    case 'accept':
      return ask(setup, action.measurements)
    case 'recorded':
      return recorded(setup)
  }
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
  const hands = { pushed_in: [...setup.hands.pushed_in].sort(), held_out: [...setup.hands.held_out].sort(), lifted: [...setup.hands.lifted].sort(), removed: [...setup.hands.removed].sort() }
  if (setup.mode === 'amps')
    return setup.clamp && { place: { kind: 'around', leg: setup.clamp.leg, part: setup.clamp.part, also: [...(setup.clamp.also ?? [])], start: setup.start }, meter: 'hi_z', open_switches, hands }
  if (setup.mode === 'turning') return setup.turning === null ? null : { place: { kind: 'turning', part: setup.turning }, meter: 'hi_z', open_switches, hands }
  if (setup.mode === 'look') return null
  if (setup.mode === 'near' || setup.mode === 'watching' || setup.mode === 'warmth') {
    const place = placeOf(setup.mode, setup.picked)
    return place && { place, meter: 'hi_z', open_switches, hands }
  }
  if (!setup.black || !setup.red) return null
  return { place: { kind: 'between', a: setup.black, b: setup.red }, meter: setup.mode, open_switches, hands }
}

function placeOf(mode: 'near' | 'watching' | 'warmth', picked: Picked | null): Measurement['place'] | null {
  if (!picked) return null
  if (mode === 'watching') return { kind: 'watching', part: picked.part }
  if (!picked.leg) return null
  return mode === 'near' ? { kind: 'near', point: `${picked.leg}@${picked.part}` } : { kind: 'warmth', part: picked.part, leg: picked.leg }
}

const UNITS: Record<Mode, Reading['unit'] | ''> = {
  hi_z: 'V',
  lo_z: 'V',
  ohm: 'ohm',
  insulation: 'ohm',
  amps: 'A',
  turning: 'seq',
  near: 'beep',
  watching: 'run',
  warmth: 'degF',
  look: '',
}
const MODES: Record<Exclude<Measurement['place']['kind'], 'between'>, Mode> = {
  around: 'amps',
  turning: 'turning',
  near: 'near',
  watching: 'watching',
  warmth: 'warmth',
}

/** What is in the hand for a measurement. */
export const modeOf = ({ place, meter }: Pick<Measurement, 'place' | 'meter'>): Mode => (place.kind === 'between' ? (meter ?? 'hi_z') : MODES[place.kind])

/** The unit in which a measurement is read; of a look none. */
export const unitOfMode = (mode: Mode) => UNITS[mode]
export const unitOf = (measurement: Measurement): Reading['unit'] => UNITS[modeOf(measurement)] || 'V'

/** Units of what is chosen from a few words instead of typed. */
export const WORDS: Partial<Record<Reading['unit'], readonly number[]>> = { seq: [1, -1, 0], beep: [1, 0], run: [0, 1, 2] }

/** Where a meter shows OL [ohm], as the core has it. */
const OVER: Partial<Record<Mode, number>> = { ohm: 40e6, insulation: 200e6 }
const SIZES: Record<string, number> = { k: 1e3, M: 1e6 }

/** The number typed, or null while it is none; of ohms OL, and k and M for thousands and millions. */
export function valueOf(setup: Setup): number | null {
  const over = OVER[setup.mode]
  if (over !== undefined) {
    if (setup.text === 'OL') return over
    const size = SIZES[setup.text.slice(-1)]
    const digits = size === undefined ? setup.text : setup.text.slice(0, -1)
    return digits.trim() !== '' && Number.isFinite(Number(digits)) ? Math.min(Number(digits) * (size ?? 1), over) : null
  }
  const value = Number(setup.text)
  return setup.text.trim() !== '' && Number.isFinite(value) ? value : null
}

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
export const isProbes = (mode: Mode): mode is MeterMode => mode === 'hi_z' || mode === 'lo_z' || mode === 'ohm' || mode === 'insulation'

/** The jaws after a touch: one conductor, or with `together` all those touched on one part. */
function clamped({ clamp, together }: Setup, leg: string, part: string): NonNullable<Setup['clamp']> {
  if (!together || clamp?.part !== part) return { leg, part }
  const held = [clamp.leg, ...(clamp.also ?? [])]
  const [first = leg, ...also] = held.includes(leg) ? held.filter((one) => one !== leg) : [...held, leg]
  return { leg: first, part, also }
}

function flip(setup: Setup, id: string, rows: readonly StripRow[]): Setup {
  const open = setup.open.includes(id) ? setup.open.filter((one) => one !== id) : [...setup.open, id]
  const gone = new Set(
    rows.filter((row) => row.carrier_of && open.includes(row.carrier_of)).flatMap((row) => Object.values(row.points)),
  )
  const keep = (point: string | null) => (point && gone.has(point) ? null : point)
  return { ...setup, open, black: keep(setup.black), red: keep(setup.red) }
}

/** Steps on to the test's next reading; after its last the probes are off. Set by hand, they stay for the next number. */
function recorded(setup: Setup): Setup {
  const done = setup.asked.length === 1 ? { black: null, red: null, clamp: null, turning: null, picked: null } : {}
  return ask({ ...setup, ...done, start: false, text: '' }, setup.asked.slice(1))
}

function ask(setup: Setup, measurements: readonly Measurement[]): Setup {
  const [first] = measurements
  if (!first) return { ...setup, asked: [] }
  const place = first.place
  const common = { ...setup, open: first.open_switches, hands: heldOf(first.hands), text: '', asked: measurements }
  switch (place.kind) {
    case 'around':
      return { ...common, mode: 'amps', clamp: { leg: place.leg, part: place.part, also: place.also }, start: place.start ?? false, together: (place.also ?? []).length > 0 }
    case 'turning':
      return { ...common, mode: 'turning', turning: place.part }
    case 'between':
      return { ...common, mode: modeOf(first), black: place.a, red: place.b }
    case 'near': {
      const [leg = null, part = ''] = place.point.split('@')
      return { ...common, mode: 'near', picked: { part, leg } }
    }
    case 'watching':
      return { ...common, mode: 'watching', picked: { part: place.part, leg: null } }
    case 'warmth':
      return { ...common, mode: 'warmth', picked: { part: place.part, leg: place.leg } }
  }
}

function tidied(mode: Mode, text: string): string {
  if (OVER[mode] === undefined) return tidy(text)
  if (/^o/i.test(text.trim())) return 'OL'
  const size = /m\s*$/i.test(text) ? 'M' : /k\s*$/i.test(text) ? 'k' : ''
  return tidy(text) + size
}

/** Whether what is set up is the test's next reading. */
export const isAsked = (setup: Setup, test: NextTest) => test.measurements.length > 0 && setup.asked[0] === test.measurements[0]

/** Keeps what can be part of a decimal number; a comma is taken for the decimal point. */
function tidy(text: string): string {
  const [whole = '', ...rest] = text.replaceAll(',', '.').replace(/[^0-9.]/g, '').split('.')
  return (rest.length ? `${whole}.${rest.join('')}` : whole).slice(0, 8)
}

import type { Measurement, MeterMode, StripRow } from '../../api/schema.gen'

export const GROUND = 'G'

export type Mode = MeterMode | 'amps'

/** What is set up for the next reading: probes or clamp, meter, switches, and the number being typed. */
export type Setup = {
  mode: Mode
  black: string | null
  red: string | null
  clamp: { leg: string; part: string; also?: readonly string[] } | null
  /** Whether further conductors join those in the jaws instead of taking their place. */
  together: boolean
  open: readonly string[]
  text: string
  /** Readings of an accepted test still to be taken, the present one first. */
  asked: readonly Measurement[]
}

export type SetupAction =
  | { do: 'touch'; point: string }
  | { do: 'clamp'; leg: string; part: string }
  | { do: 'together' }
  | { do: 'mode'; mode: Mode }
  | { do: 'flip'; switch: string; rows: readonly StripRow[] }
  | { do: 'type'; text: string }
  | { do: 'key'; key: string }
  | { do: 'accept'; measurements: readonly Measurement[] }
  | { do: 'recorded' }

export const atRest: Setup = { mode: 'hi_z', black: null, red: null, clamp: null, together: false, open: [], text: '', asked: [] }

export function reduce(setup: Setup, action: SetupAction): Setup {
  switch (action.do) {
    case 'touch':
      return { ...touch(setup, action.point), asked: [] }
    case 'clamp':
      return { ...setup, mode: 'amps', clamp: clamped(setup, action.leg, action.part), asked: [] }
    case 'together':
      return { ...setup, together: !setup.together, clamp: setup.clamp && { leg: setup.clamp.leg, part: setup.clamp.part }, asked: [] }
    case 'mode':
      return { ...setup, mode: action.mode, asked: [] }
    case 'flip':
      return { ...flip(setup, action.switch, action.rows), asked: [] }
    case 'type':
      return { ...setup, text: tidy(action.text) }
    case 'key':
      return { ...setup, text: action.key === '⌫' ? setup.text.slice(0, -1) : tidy(setup.text + action.key) }
    case 'accept':
      return ask(setup, action.measurements)
    case 'recorded':
      return recorded(setup)
  }
}

/** The measurement that is set up, or null while a probe is still in hand. */
export function measurementOf(setup: Setup): Measurement | null {
  const open_switches = [...setup.open].sort()
  if (setup.mode === 'amps')
    return setup.clamp && { place: { kind: 'around', leg: setup.clamp.leg, part: setup.clamp.part, also: [...(setup.clamp.also ?? [])] }, meter: 'hi_z', open_switches }
  if (!setup.black || !setup.red) return null
  return { place: { kind: 'between', a: setup.black, b: setup.red }, meter: setup.mode, open_switches }
}

/** The number typed, or null while it is none. */
export function valueOf(setup: Setup): number | null {
  const value = Number(setup.text)
  return setup.text.trim() !== '' && Number.isFinite(value) ? value : null
}

function touch(setup: Setup, point: string): Setup {
  const mode = setup.mode === 'amps' ? 'hi_z' : setup.mode
  if (point === setup.black) return { ...setup, mode, black: null }
  if (point === setup.red) return { ...setup, mode, red: null }
  if (!setup.black) return { ...setup, mode, black: point }
  if (!setup.red) return { ...setup, mode, red: point }
  // Both are placed: the red one moves, as the hand that is free does.
  return { ...setup, mode, red: point }
}

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
  const done = setup.asked.length === 1 ? { black: null, red: null, clamp: null } : {}
  return ask({ ...setup, ...done, text: '' }, setup.asked.slice(1))
}

function ask(setup: Setup, measurements: readonly Measurement[]): Setup {
  const [first] = measurements
  if (!first) return { ...setup, asked: [] }
  const place = first.place
  const common = { ...setup, open: first.open_switches, text: '', asked: measurements }
  return place.kind === 'around'
    ? { ...common, mode: 'amps', clamp: { leg: place.leg, part: place.part, also: place.also }, together: (place.also ?? []).length > 0 }
    : { ...common, mode: first.meter, black: place.a, red: place.b }
}

/** Keeps what can be part of a decimal number; a comma is taken for the decimal point. */
function tidy(text: string): string {
  const [whole = '', ...rest] = text.replaceAll(',', '.').replace(/[^0-9.]/g, '').split('.')
  return (rest.length ? `${whole}.${rest.join('')}` : whole).slice(0, 8)
}

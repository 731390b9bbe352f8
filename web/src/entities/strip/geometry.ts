import { KINDS } from '../../api/observations.gen'
import type { LaneState, PointStanding, StripRow, StripSection } from '../../api/schema.gen'
import { lettersPx } from '../../shared/letters'
import { partsOf } from '../../shared/point'
import { isProbes, type Kind, type Mode } from './setup'

// Rows grow with their letters.
export const ROW_HEIGHT = Math.max(46, Math.round(2.875 * lettersPx()))
export const HEAD_HEIGHT = 56
const PAD = 24
const WIDEST = 80
/** How far beside its lane a rail runs where it passes what hangs on the same conductor, and how far apart rails are. */
const RAIL_SHIFT = 11
const RAILS_APART = 6

export type Lanes = { at: Record<string, number>; spacing: number; width: number }

/** Where each lane of a section runs across the drawing, in pixels: as far apart as the room allows. */
export function lanesOf(lanes: readonly string[], room: number): Lanes {
  const spacing = Math.min(WIDEST, (room - 2 * PAD) / Math.max(lanes.length - 1, 1))
  const at = Object.fromEntries(lanes.map((lane, i) => [lane, PAD + i * spacing]))
  return { at, spacing, width: PAD * 2 + (lanes.length - 1) * spacing }
}

/** Top of a row, in pixels from the top of the drawing. */
export const rowTop = (index: number) => HEAD_HEIGHT + index * ROW_HEIGHT

/** Height at which a row's points lie: its lower edge. */
export const pointY = (index: number) => rowTop(index) + ROW_HEIGHT

export const sectionHeight = (section: StripSection) => rowTop(section.rows.length) + 12

/** A length of one lane: what it is, and where it runs. */
export type Stretch = {
  key: string
  lane: string
  part: string
  fromLane: string
  fromY: number
  top: number
  bottom: number
  /** The point it comes from. */
  from: string | undefined
  /** How far beside its lane it runs on its way, in pixels; none where nothing is in the way. */
  shift: number
  standing: PointStanding | 'unknown'
  ahead: PointStanding | 'unknown'
  open: boolean
}

/** Whether a row's contacts are open, with these switches open by hand and those that follow a coil pulled in or not. */
export function isOpen(row: StripRow, open: readonly string[], known: LaneState | null, byHand: readonly string[]): boolean {
  if (!row.switch) return false
  const out = byHand.includes(row.switch) ? open.includes(row.switch) : known !== null && !known.pulled_in.includes(row.switch)
  return out !== row.normally_closed
}

/** Every length of lane in a section: a row's own, and what leads to it from the row it hangs on. */
export function stretchesOf(section: StripSection, open: readonly string[], known: LaneState | null, byHand: readonly string[]): Stretch[] {
  const rowOf = new Map(section.rows.flatMap((row, i) => Object.values(row.points).map((point) => [point, i] as const)))
  const standing = (point: string | undefined): Stretch['standing'] => (point ? (known?.points[point]?.standing ?? 'unknown') : 'unknown')
  const all = section.rows.flatMap((row, i): Stretch[] => {
    const shunt = Object.keys(row.points).length === 0
    return Object.entries(shunt ? row.comes_from : row.points).map(([lane, point]) => {
      const from = row.comes_from[lane]
      const at = from === undefined ? i - 1 : (rowOf.get(from) ?? i - 1)
      const fromLane = from === undefined ? lane : partsOf(from).lane
      const between = section.rows.slice(at + 1, i)
      return {
        key: row.part + lane,
        lane,
        part: row.part,
        fromLane: section.lanes.includes(fromLane) ? fromLane : lane,
        fromY: rowTop(at + 1),
        top: rowTop(i),
        bottom: shunt ? rowTop(i) + ROW_HEIGHT / 2 : pointY(i),
        from,
        shift: between.some((one) => fromLane in one.points) ? RAIL_SHIFT : 0,
        standing: standing(point),
        ahead: from === undefined ? standing(point) : standing(from),
        open: !shunt && lane !== 'G' && isOpen(row, open, known, byHand),
      }
    })
  })
  return railsApart(all)
}

/** Rails that come from one point share a way; others that pass each other on one conductor run apart. */
function railsApart(all: Stretch[]): Stretch[] {
  const laid: Stretch[] = []
  // The shorter way lies nearer its lane.
  const rails = all.filter((one) => one.shift > 0).sort((a, b) => a.top - a.fromY - (b.top - b.fromY))
  for (const rail of rails) {
    const passed = laid.filter((one) => one.fromLane === rail.fromLane && one.fromY < rail.top && rail.fromY < one.top)
    const shared = passed.find((one) => one.from === rail.from)
    let shift = shared?.shift ?? RAIL_SHIFT
    const taken = (at: number) => passed.some((one) => one.from !== rail.from && one.shift === at)
    while (taken(shift)) shift += RAILS_APART
    laid.push({ ...rail, shift })
  }
  return all.map((one) => laid.find((rail) => rail.key === one.key) ?? one)
}

/** What a touch does: sets a probe, closes the clamp, or picks three legs, a point, a conductor at a part, or a part. */
export type Way = 'probe' | (typeof KINDS)[Kind]['picks'] | 'look'

/** What a touch does with this in the hand. */
const wayOf = (mode: Mode): Way => (mode === 'look' ? 'look' : isProbes(mode) ? 'probe' : KINDS[mode].picks)

/** Whether the way touches a row's middle, where the part is, instead of the point below it. */
export const isRing = (way: Way) => way !== 'probe' && way !== 'legs' && way !== 'point'

/** Whether a row can be touched with this in the hand at all. */
function takes(row: StripRow, mode: Mode): boolean {
  const shunt = Object.keys(row.points).length === 0
  switch (wayOf(mode)) {
    case 'probe':
      return !shunt
    case 'jaws':
      return !shunt || row.clampable
    case 'look':
      return row.looked_at_as !== null
    case 'point':
      return !shunt && row.takes.includes(mode)
    default:
      return row.takes.includes(mode)
  }
}

export type Target = { key: string; row: StripRow; index: number; lane: string; point: string; way: Way }

/** What can be touched in a section: dots for probes; rings for what closes around a wire or points at a part. */
export function targetsOf(section: StripSection, mode: Mode): Target[] {
  const way = wayOf(mode)
  return section.rows.flatMap((row, index) => {
    const shunt = Object.keys(row.points).length === 0
    if (!takes(row, mode)) return []
    const found = section.lanes.flatMap((lane) => {
      const point = lane === 'G' ? 'G' : ((shunt ? row.comes_from[lane] : row.points[lane]) ?? '')
      if (!point || (lane === 'G' && (shunt || way !== 'probe')) || (way === 'legs' && lane === 'N')) return []
      return [{ key: `${row.part}${lane}`, row, index, lane, point, way }]
    })
    // A load works as a whole, and so does a contactor.
    return way === 'part' ? found.slice(0, 1) : found
  })
}

/** The target an arrow key leads to: the nearest in its direction, or the same one at an edge. */
export function neighbour(targets: readonly Target[], lanes: readonly string[], at: number, key: string): number {
  const here = targets[at]
  const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[key]
  if (!here || !step) return at
  const [dy = 0, dx = 0] = step
  let best = at
  let nearest = Infinity
  targets.forEach((one, i) => {
    const y = one.index - here.index
    const x = lanes.indexOf(one.lane) - lanes.indexOf(here.lane)
    if ((dy && Math.sign(y) !== dy) || (dx && (Math.sign(x) !== dx || y !== 0))) return
    const far = dy ? Math.abs(y) + 100 * Math.abs(x) : Math.abs(x)
    if (far < nearest) [best, nearest] = [i, far]
  })
  return best
}

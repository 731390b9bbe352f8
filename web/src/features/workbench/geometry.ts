import type { Strip, StripRow } from '../../api/schema.gen'

export const ROW_HEIGHT = 46
export const HEAD_HEIGHT = 40
const PAD = 27

export type Lanes = { legs: Record<string, number>; ground: number; width: number }

/** Where each lane runs across the drawing, in pixels. */
export function lanesOf(legs: readonly string[], spacing: number): Lanes {
  const x = (i: number) => PAD + i * spacing
  return {
    legs: Object.fromEntries(legs.map((leg, i) => [leg, x(i)])),
    ground: x(legs.length),
    width: x(legs.length) + PAD,
  }
}

/** Top of a row, in pixels from the top of the drawing. */
export const rowTop = (index: number) => HEAD_HEIGHT + index * ROW_HEIGHT

/** Height at which a row's points lie: its lower edge. */
export const pointY = (index: number) => rowTop(index) + ROW_HEIGHT

export const stripHeight = (strip: Strip) => rowTop(strip.rows.length) + 12

export type Stretch = { leg: string; top: number; bottom: number; state: 'fed' | 'gap' | 'cut' }

/** Stretches of each lane: fed, the gap of an open switch, and what an open switch cuts off. */
export function stretchesOf(strip: Strip, open: readonly string[]): Stretch[] {
  return strip.legs.flatMap((leg) => {
    let cut = false
    return strip.rows.map((row, i) => {
      const gap = row.switch !== null && open.includes(row.switch)
      const state = gap ? 'gap' : cut ? 'cut' : 'fed'
      cut ||= gap
      return { leg, top: rowTop(i), bottom: pointY(i), state } as const
    })
  })
}

/** Points a probe may touch, row by row; a row without points of its own is left out. */
export function touchRows(strip: Strip): { row: StripRow; index: number }[] {
  return strip.rows.map((row, index) => ({ row, index })).filter(({ row }) => Object.keys(row.points).length > 0)
}

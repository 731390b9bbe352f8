import { describe, expect, it } from 'vitest'

import type { Measurement, StripRow } from '../../api/schema.gen'
import { atRest, measurementOf, type Mode, readyOf, reduce, type Setup, type SetupAction, textOf, unitOf, valueOf, whyNotReady } from './setup'

const free = { pushed_in: [], held_out: [], lifted: [], removed: [] }
const after = (...actions: SetupAction[]) => actions.reduce<Setup>(reduce, atRest)
const touch = (point: string): SetupAction => ({ do: 'touch', point })

const row = (part: string, carrier_of: string | null): StripRow => ({
  part,
  name: part,
  device: '',
  detail: '',
  role: 'series',
  idle: false,
  zone: 'disconnect',
  switch: null,
  normally_closed: false,
  carrier_of,
  held: null,
  leads: {},
  clampable: false,
  kind: 'lug',
  takes: [],
  marks: {},
  hangs_on: null,
  reach: [],
  looked_at_as: 'part',
  is_motor: false,
  calls: false,
  moves_contacts: false,
  points: { L1: `L1@${part}`, L2: `L2@${part}` },
  comes_from: {},
  point_name: part,
})

describe('probes', () => {
  it('are placed black first, then red; the red one moves', () => {
    const two = after(touch('L1@whip'), touch('L2@whip'))
    expect(measurementOf(two)?.place).toEqual({ kind: 'between', a: 'L1@whip', b: 'L2@whip' })
    expect(reduce(two, touch('G'))).toMatchObject({ black: 'L1@whip', red: 'G' })
    expect(reduce(two, touch('L1@whip'))).toMatchObject({ black: null, red: 'L2@whip' })
  })

  it('stay where they are after a number recorded by hand', () => {
    const two = after(touch('L1@whip'), touch('G'), { do: 'type', text: '120' })
    expect(reduce(two, { do: 'recorded', asked: [], texts: two.texts })).toMatchObject({ black: 'L1@whip', red: 'G', texts: [''] })
    expect(reduce({ ...two, texts: ['119'] }, { do: 'recorded', asked: [], texts: ['240'] }).texts).toEqual(['119'])
  })

  it('give no measurement while one is still in hand', () => {
    expect(measurementOf(after(touch('L1@whip')))).toBeNull()
    expect(measurementOf(after({ do: 'mode', mode: 'around' }))).toBeNull()
  })

  it('leave the points that a pulled carrier takes along, and come back empty', () => {
    const rows = [row('fuse', 'disconnect'), row('whip', null)]
    const pulled = [touch('L1@fuse'), touch('L2@whip'), { do: 'flip', switch: 'disconnect', rows } as const]
    expect(after(...pulled)).toMatchObject({ black: null, red: 'L2@whip', open: ['disconnect'] })
    expect(after(...pulled, { do: 'flip', switch: 'disconnect', rows }).open).toEqual([])
  })
})

describe('the clamp', () => {
  const clamp = (leg: string, part = 'whip'): SetupAction => ({ do: 'clamp', leg, part })

  it('closes around one conductor, and around several only when asked to', () => {
    expect(after(clamp('L1'), clamp('L2')).clamp).toEqual({ leg: 'L2', part: 'whip' })
    const both = after(clamp('L1'), { do: 'together' }, clamp('L2'))
    expect(measurementOf(both)?.place).toEqual({ kind: 'around', leg: 'L1', part: 'whip', also: ['L2'], start: false })
    expect(reduce(both, clamp('L1')).clamp).toMatchObject({ leg: 'L2', also: [] })
    expect(reduce(both, clamp('L1', 'branch')).clamp).toEqual({ leg: 'L1', part: 'branch' })
  })
})

describe('the phase sequence', () => {
  it('is read behind one part, without a number pad, and a probe takes its place', () => {
    const clipped = after({ do: 'mode', mode: 'turning' }, { do: 'pick', picked: { part: 'whip', leg: null } }, { do: 'choose', value: -1 })
    expect(measurementOf(clipped)).toEqual({ place: { kind: 'turning', part: 'whip' }, meter: 'hi_z', open_switches: [], hands: free })
    expect(unitOf({ place: { kind: 'turning', part: 'whip' }, meter: 'hi_z', open_switches: [], hands: free })).toBe('seq')
    expect(valueOf(clipped)).toBe(-1)
    expect(reduce(clipped, touch('L1@whip')).mode).toBe('hi_z')
    expect(reduce(clipped, { do: 'recorded', asked: [], texts: clipped.texts })).toMatchObject({ picked: { part: 'whip', leg: null }, texts: [''] })
  })
})

describe('what a hand holds or takes off', () => {
  const out: SetupAction = { do: 'hold', field: 'removed', id: 'compressor' }

  it('goes with the reading; a contact is pushed in or held out, never both', () => {
    const both = after({ do: 'hold', field: 'pushed_in', id: 'contactor' }, { do: 'hold', field: 'held_out', id: 'contactor' }, touch('L1@whip'), touch('G'))
    expect(measurementOf(both)?.hands).toEqual({ ...free, held_out: ['contactor'] })
  })

  it('put back takes the probes off its own leads', () => {
    const probed = after(out, { do: 'mode', mode: 'ohm' }, touch('L1@compressor'), touch('G'))
    expect(measurementOf(probed)).toMatchObject({ meter: 'ohm', hands: { ...free, removed: ['compressor'] } })
    expect(reduce(probed, { do: 'let go', field: 'removed', id: 'compressor' })).toMatchObject({ black: null, red: 'G', hands: free })
  })
})

describe('an accepted test', () => {
  const asked: Measurement[] = [
    { place: { kind: 'between', a: 'L1@whip', b: 'G' }, meter: 'lo_z', open_switches: ['contactor'], hands: free },
    { place: { kind: 'around', leg: 'L2', part: 'whip', also: [], start: false }, meter: 'hi_z', open_switches: [], hands: free },
  ]

  it('sets probes, meter and switches for each of its readings, and is recorded in one go', () => {
    const first = after({ do: 'type', text: '9' }, { do: 'accept', measurements: asked })
    expect(measurementOf(first)).toEqual(asked[0])
    expect(first.texts).toEqual(['', ''])
    const second = reduce(reduce(first, { do: 'type', text: '120.4' }), { do: 'go', at: 1 })
    expect(measurementOf(second)).toEqual(asked[1])
    expect(readyOf(second)).toEqual([{ measurement: asked[0], value: 120.4 }])
    const both = reduce(second, { do: 'type', text: '18.2' })
    expect(readyOf(both).map(({ value }) => value)).toEqual([120.4, 18.2])
    const through = reduce(both, { do: 'recorded', asked: both.asked, texts: both.texts })
    expect(through.asked).toEqual([])
    expect(measurementOf(through)).toBeNull()
  })

  it('is given up when something is set by hand', () => {
    const mine = after({ do: 'accept', measurements: asked }, { do: 'type', text: '12' }, touch('L1@whip'))
    expect(mine).toMatchObject({ asked: [], texts: [''], black: 'L1@whip', red: null, byHand: true })
    expect(reduce(mine, { do: 'accept', measurements: asked }).byHand).toBe(false)
  })
})

describe('the number', () => {
  it('stays as it is typed, and is asked about where it is none', () => {
    const typed = after({ do: 'type', text: '24O' })
    expect(textOf(typed)).toBe('24O')
    expect(readyOf({ ...typed, black: 'L1@whip', red: 'G' })).toEqual([])
    expect(whyNotReady(typed)).toContain('letter O')
    expect(textOf(after({ do: 'type', text: '12' }, { do: 'key', key: '⌫' }))).toBe('1')
  })

  it('is no value while it is empty or only a point', () => {
    expect(valueOf(after())).toBeNull()
    expect(valueOf(after({ do: 'type', text: '.' }))).toBeNull()
    expect(valueOf(after({ do: 'type', text: '0.3' }))).toBe(0.3)
  })
})

it('ohms are typed with k, M and OL, and stop at the meter’s limit', () => {
  const type = (text: string) => valueOf(reduce({ ...atRest, mode: 'ohm' }, { do: 'type', text }))
  expect(type('4.7k')).toBe(4700)
  expect(type('2,2M')).toBe(2.2e6)
  expect(type('ol')).toBe(40e6)
  expect(type('90M')).toBe(40e6)
  expect(type('0.4')).toBe(0.4)
  expect(valueOf(reduce({ ...atRest, mode: 'insulation' }, { do: 'key', key: 'OL' }))).toBe(200e6)
  expect(textOf(reduce({ ...atRest, mode: 'ohm', texts: ['OL'] }, { do: 'key', key: '⌫' }))).toBe('')
})

it('eyes, tester and thermometer point at a row; a look is no measurement', () => {
  const picked = { part: 'fuse', leg: 'L2' }
  const measured = (mode: Mode) => measurementOf(reduce({ ...atRest, mode }, { do: 'pick', picked }))
  expect(measured('near')?.place).toEqual({ kind: 'near', point: 'L2@fuse' })
  expect(measured('warmth')?.place).toEqual({ kind: 'warmth', part: 'fuse', leg: 'L2' })
  expect(measured('watching')?.place).toEqual({ kind: 'watching', part: 'fuse' })
  expect(measured('look')).toBeNull()
})

it('an accepted test of any kind sets up what it asks for', () => {
  const place = { kind: 'near', point: 'L1@whip' } as const
  const setup = reduce(atRest, { do: 'accept', measurements: [{ place, meter: 'hi_z', open_switches: [], hands: free }] })
  expect(setup.mode).toBe('near')
  expect(measurementOf(setup)?.place).toEqual(place)
  expect(reduce({ ...setup, texts: ['1'] }, { do: 'recorded', asked: setup.asked, texts: ['1'] }).picked).toBeNull()
})

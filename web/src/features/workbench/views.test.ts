import { describe, expect, it } from 'vitest'

import type { LaneState, StripSection, Suspect } from '../../api/schema.gen'
import { percent, rangeWords } from '../../entities/reading/words'
import { lanesOf, neighbour, pointY, rowTop, stretchesOf, targetsOf } from '../../entities/strip/geometry'
import { placesOf } from '../../entities/strip/places'

const row = (part: string, hangsOn: string | null, lanes: string[], more: object = {}) => ({
  part,
  switch: null,
  normally_closed: false,
  clampable: false,
  held: null,
  leads: {},
  points: Object.fromEntries(lanes.map((lane) => [lane, `${lane}@${part}`])),
  comes_from: hangsOn ? Object.fromEntries(lanes.map((lane) => [lane, `${lane}@${hangsOn}`])) : {},
  ...more,
})

const section = {
  root: 'supply',
  lanes: ['L1', 'L2', 'G'],
  rows: [
    row('supply', null, ['L1', 'L2']),
    row('contactor', 'supply', ['L1'], { switch: 'contactor' }),
    { ...row('compressor', 'contactor', []), clampable: true, comes_from: { L1: 'L1@contactor', L2: 'L2@supply' } },
    row('relay', 'supply', ['L1'], { switch: 'relay', normally_closed: true }),
  ],
} as unknown as StripSection

const state = {
  open_switches: [],
  pulled_in: [],
  chatters: false,
  points: { 'L1@supply': { standing: 'live', volts: 120 }, 'L1@contactor': { standing: 'floating', volts: 8 } },
} as LaneState

const suspect = (key: string, part: string | null, leg: string | null, probability: number) =>
  ({ key, part, leg, probability, place: part ? `${part}:${leg ?? ''}` : key, kind: key.split(':')[0], words: key, evidence: [] }) as unknown as Suspect

describe('the strip', () => {
  it('gives every conductor a lane, ground the last', () => {
    const { at, width } = lanesOf(['L1', 'L2', 'G'], 168)
    const { L1 = NaN, L2 = NaN, G = NaN } = at
    expect([L2 - L1, G - L2]).toEqual([60, 60])
    expect(width).toBeGreaterThan(G)
  })

  it('puts a row’s points on its lower edge', () => {
    expect(pointY(2)).toBe(rowTop(3))
  })

  it('says what each stretch is in the leading explanation, and opens what is open', () => {
    const [, , one, , lead, other] = stretchesOf(section, [], state, ['relay'])
    expect(one).toMatchObject({ part: 'contactor', ahead: 'live', standing: 'floating', open: true, shift: 0 })
    // A contact that is normally closed opens when its switch is moved; its rail passes what hangs beside it.
    expect(other).toMatchObject({ part: 'relay', ahead: 'live', open: true, shift: 11, fromY: rowTop(1) })
    expect(lead).toMatchObject({ part: 'compressor', lane: 'L2', ahead: 'unknown', shift: 0, open: false })
    expect(stretchesOf(section, ['relay'], state, ['relay'])[5]).toMatchObject({ part: 'relay', open: false })
  })

  it('lets rails from different points run apart, and those from one point together', () => {
    const rows = [
      row('lug', null, ['L1']),
      row('breaker', 'lug', ['L1']),
      row('relay', 'breaker', ['L1']),
      row('bank_1', 'breaker', ['L1']),
      row('bank_2', 'breaker', ['L1']),
      row('other', 'lug', ['L1']),
    ]
    const shifts = stretchesOf({ root: 'lug', lanes: ['L1', 'G'], rows } as unknown as StripSection, [], null, []).map(({ part, shift }) => [part, shift])
    expect(shifts).toEqual([
      ['lug', 0],
      ['breaker', 0],
      ['relay', 0],
      ['bank_1', 11],
      ['bank_2', 11],
      ['other', 17],
    ])
  })

  it('offers dots to the probes and leads to the clamp, and arrows move among them', () => {
    expect(targetsOf(section, 'hi_z').map(({ key }) => key)).toEqual(['supplyL1', 'supplyL2', 'supplyG', 'contactorL1', 'contactorG', 'relayL1', 'relayG'])
    expect(targetsOf(section, 'around').map(({ key }) => key)).toContain('compressorL2')
    const targets = targetsOf(section, 'hi_z')
    expect(neighbour(targets, section.lanes, 0, 'ArrowDown')).toBe(3)
    expect(neighbour(targets, section.lanes, 3, 'ArrowRight')).toBe(4)
    expect(neighbour(targets, section.lanes, 0, 'ArrowUp')).toBe(0)
  })
})

describe('suspects by place', () => {
  it('adds up the ways in which one part fails on one leg, and ranks the places', () => {
    const places = placesOf([
      suspect('open:fuse:L1', 'fuse', 'L1', 0.3),
      suspect('same_leg', null, null, 0.25),
      suspect('open:clip:L2', 'clip', 'L2', 0.24),
      suspect('intermittent:clip:L2', 'clip', 'L2', 0.21),
    ])
    expect(places.map(({ chief, probability }) => [chief.key, Math.round(probability * 100)])).toEqual([
      ['open:clip:L2', 45],
      ['open:fuse:L1', 30],
      ['same_leg', 25],
    ])
    expect(places[0]?.others.map(({ key }) => key)).toEqual(['intermittent:clip:L2'])
  })
})

describe('numbers in words', () => {
  it('never claims certainty', () => {
    expect([0.9999, 0.984, 0.031, 0.0001].map(percent)).toEqual(['>99%', '98%', '3%', '<1%'])
  })

  it('says ranges with their unit and no more digits than they deserve', () => {
    expect(rangeWords({ low: 118.9, high: 122.04 }, 'V')).toBe('119–122 V')
    expect(rangeWords({ low: 0, high: 0.3 }, 'V')).toBe('0–0.3 V')
    expect(rangeWords({ low: 240.2, high: 240.4 }, 'V')).toBe('240 V')
  })
})

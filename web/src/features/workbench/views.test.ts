import { describe, expect, it } from 'vitest'

import type { Strip, Suspect } from '../../api/schema.gen'
import { lanesOf, pointY, rowTop, stretchesOf } from './geometry'
import { placesOf } from './places'
import { percent, rangeWords } from './words'

const strip = {
  legs: ['L1', 'L2'],
  rows: ['breaker', 'branch', 'contactor', 'load'].map((part) => ({
    part,
    switch: part === 'breaker' || part === 'contactor' ? part : null,
  })),
} as unknown as Strip

const suspect = (key: string, part: string | null, leg: string | null, probability: number) =>
  ({ key, part, leg, probability, kind: key.split(':')[0], words: key, evidence: [] }) as unknown as Suspect

describe('the strip', () => {
  it('gives every leg a lane and ground the last', () => {
    const { legs, ground, width } = lanesOf(['L1', 'L2'], 60)
    const { L1 = NaN, L2 = NaN } = legs
    expect([L2 - L1, ground - L2]).toEqual([60, 60])
    expect(width).toBeGreaterThan(ground)
  })

  it('puts a row’s points on its lower edge', () => {
    expect(pointY(2)).toBe(rowTop(3))
  })

  it('cuts off everything behind an open switch, on every leg', () => {
    const states = stretchesOf(strip, ['contactor']).map(({ leg, state }) => `${leg} ${state}`)
    expect(states).toEqual(['L1 fed', 'L1 fed', 'L1 gap', 'L1 cut', 'L2 fed', 'L2 fed', 'L2 gap', 'L2 cut'])
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

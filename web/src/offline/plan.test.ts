import { describe, expect, it } from 'vitest'

import type { TakeAlong, TakenNode } from '../api/schema.gen'
import type { Unsent } from './database'
import { branchFor, followed } from './plan'

const place = { kind: 'between', a: 'L1@whip', b: 'G' } as const
const measurement = { place, meter: 'hi_z', open_switches: [], hands: { pushed_in: [], held_out: [], lifted: [], removed: [] } } as const
const node = (words: string, more: Partial<TakenNode> = {}) => ({ words, test: null, branches: [], ...more }) as unknown as TakenNode
const test = { measurements: [measurement], look: null } as unknown as TakenNode['test']
const plan = {
  nodes: [
    node('first', {
      test,
      branches: [
        { ranges: [{ low: 0, high: 40 }], found: null, to: 1 },
        { ranges: [{ low: 40.1, high: 130 }], found: null, to: 2 },
      ],
    }),
    node('low'),
    node('good'),
  ],
} as unknown as TakeAlong
const read = (value: number, where = measurement): Unsent => ({
  callId: 'c',
  personId: 'p',
  at: '',
  problem: '',
  asks: false,
  entries: [
    { id: 'e', action: 'add', reading_id: 'r', reading: { id: 'r', measurement: { ...where, open_switches: [] }, value, unit: 'V' }, confirmed: false },
  ] as unknown as Unsent['entries'],
})

describe('the plan taken along', () => {
  it('takes the branch whose band holds the number', () => {
    expect([5, 40, 41, 130, 400].map((value) => branchFor(plan.nodes[0] as TakenNode, [value]))).toEqual([1, 1, 2, 2, null])
  })

  it('is followed reading by reading, and left by what it does not ask or foresee', () => {
    expect(followed(plan, [])).toMatchObject({ node: { words: 'first' }, left: false })
    expect(followed(plan, [read(120)])).toMatchObject({ node: { words: 'good' }, left: false })
    expect(followed(plan, [read(400)])).toMatchObject({ node: { words: 'first' }, left: true })
    expect(followed(plan, [read(120, { ...measurement, place: { ...place, a: 'L2@whip' } as unknown as typeof place })])).toMatchObject({ left: true })
    expect(followed(plan, [read(120), read(120)])).toMatchObject({ node: { words: 'good' }, left: true })
  })
})

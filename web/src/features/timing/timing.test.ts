import { describe, expect, it } from 'vitest'

import type { Timed } from '../../api/schema.gen'
import { barsOf, seconds, seenFrom } from './timing'

describe('what was noted', () => {
  it('is read a pair a line', () => {
    expect(seenFrom('0 0\n42, 21.5\n\n')).toEqual([
      { at_s: 0, amps: 0 },
      { at_s: 42, amps: 21.5 },
    ])
    expect(seenFrom('42')).toBeNull()
  })
})

describe('the time line', () => {
  it('joins moments in which a thing stays on', () => {
    const moments = [
      { from_s: 0, to_s: 20, running: [] },
      { from_s: 20, to_s: 45, running: ['fan'] },
      { from_s: 45, to_s: 85, running: ['fan'] },
      { from_s: 85, to_s: 99, running: [] },
    ] as unknown as Timed['moments']
    expect(barsOf(moments, (one) => one.running.includes('fan'))).toEqual([{ from: 20, to: 85 }])
  })

  it('says seconds as people do', () => {
    expect([0.5, 42, 120, 315].map(seconds)).toEqual(['0.5 s', '42 s', '2 min', '5 min 15 s'])
  })
})

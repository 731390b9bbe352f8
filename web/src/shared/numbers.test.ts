import { describe, expect, it } from 'vitest'

import { numberOf, signedNumberOf } from './numbers'

describe('a number as it is typed', () => {
  it('is read as it stands', () => {
    expect(['120', '243,1', '.5', '24.', ' 7 ', ''].map((text) => numberOf(text).value)).toEqual([120, 243.1, 0.5, 24, 7, null])
    expect(signedNumberOf('-5').value).toBe(-5)
  })

  it('is asked about where it could be meant otherwise, and never changed', () => {
    for (const [text, why] of [
      ['-5', 'minus'],
      ['1e5', 'exponent'],
      ['24O', 'letter O'],
      ['1,000', 'thousands'],
      ['12.3.4', 'no number'],
      ['12 V', 'no number'],
    ] as const) {
      expect(numberOf(text).value).toBeNull()
      expect(numberOf(text).why).toContain(why)
    }
  })
})

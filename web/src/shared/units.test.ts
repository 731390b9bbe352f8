import { describe, expect, it } from 'vitest'

import { celsiusOf, fahrenheitOf, feetOf, gauge, inchesOf, metresOf, mmOf, shown } from './units'

describe('units at the edge', () => {
  it('come back as they went', () => {
    expect(feetOf(metresOf(62))).toBe(62)
    expect(fahrenheitOf(celsiusOf(122))).toBe(122)
    expect(celsiusOf(86)).toBeCloseTo(30)
    expect(inchesOf(mmOf(0.875))).toBeCloseTo(0.88)
  })
  it('print as one reads them', () => {
    expect([shown(22.5), shown(0.01234), shown(1234.56), shown(0)]).toEqual(['22.5', '0.01234', '1235', '0'])
    expect([gauge(10), gauge(0), gauge(-3), gauge(-4)]).toEqual(['10 AWG', '1/0 AWG', '4/0 AWG', '250 kcmil'])
  })
})

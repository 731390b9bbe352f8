import { describe, expect, it } from 'vitest'

import type { Table } from '../../api/schema.gen'
import { cellWords, rowsThatHold } from './tables'

const table: Table = {
  key: 'ampacity',
  title: 'Ampacity',
  source: 'somewhere',
  standing: 'from memory',
  columns: ['metal', 'size', '60 °C'],
  units: ['', 'AWG', 'A'],
  rows: [
    ['copper', 10, 30],
    ['copper', 0, 125],
    ['aluminium', 10, 25],
    ['copper', 1, 110],
  ],
}

describe('looking something up', () => {
  it('takes every word, and numbers as whole numbers', () => {
    expect(rowsThatHold(table, '10 awg copper')).toEqual([['copper', 10, 30]])
    expect(rowsThatHold(table, '1/0')).toEqual([['copper', 0, 125]])
    expect(rowsThatHold(table, '1 awg')).toEqual([['copper', 1, 110]])
    expect(rowsThatHold(table, 'ampacity')).toHaveLength(4)
    expect(rowsThatHold(table, 'torque')).toEqual([])
  })
  it('says gauges in words', () => {
    expect(cellWords(table, -1, 1)).toBe('2/0 AWG')
    expect(cellWords(table, 30, 2)).toBe('30')
  })
})

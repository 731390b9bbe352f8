import { describe, expect, it } from 'vitest'

import { polesOf } from './poles'

const at = (space: number) => ({ space, row: Math.floor((space - 1) / 2), side: (space - 1) % 2, leg: 'L1', switches: [] })
const spaces = [1, 2, 3, 4, 5, 6].map((space) => at(space))

describe('the poles of a breaker', () => {
  it('lie one below the other on one side', () => {
    expect(polesOf(spaces, at(2), 'two')).toEqual(['2', '4'])
    expect(polesOf(spaces, at(1), 'three')).toEqual(['1', '3', '5'])
    expect(polesOf(spaces, at(3), 'inner')).toEqual(['3B', '5A'])
    expect(polesOf(spaces, at(4), 'halves')).toEqual(['4A', '4B'])
  })

  it('do not reach beyond the panel', () => {
    expect(polesOf(spaces, at(5), 'two')).toBeNull()
  })
})

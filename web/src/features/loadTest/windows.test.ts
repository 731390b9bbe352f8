import { expect, test } from 'vitest'

import { clock, zoomed } from './windows'

test('a window stays within the trace, and is the whole of it when it would be wider', () => {
  expect(zoomed({ from: 0, to: 600 }, 600, 0, 0.5)).toEqual({ from: 150, to: 450 })
  expect(zoomed({ from: 150, to: 450 }, 600, 0.9, 1)).toEqual({ from: 300, to: 600 })
  expect(zoomed({ from: 150, to: 450 }, 600, -5, 1)).toEqual({ from: 0, to: 300 })
  expect(zoomed({ from: 150, to: 450 }, 600, 0, 2)).toBeNull()
  expect(zoomed({ from: 10, to: 11 }, 600, 0, 0.5)).toEqual({ from: 9.5, to: 11.5 })
})

test('seconds are told as a clock does', () => {
  expect([0, 59.6, 61, 3725].map(clock)).toEqual(['0:00', '1:00', '1:01', '62:05'])
})

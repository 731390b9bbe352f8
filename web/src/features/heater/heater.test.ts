import { expect, it } from 'vitest'

import { kilowatts, kitOf } from './heater'

it('reads kilowatts as they are written', () => {
  expect(kilowatts('5 + 5')).toEqual([5, 5])
  expect(kilowatts('4.8, 4.8 and more')).toEqual([4.8, 4.8])
})

it('judges a kit once its size and volts are known', () => {
  const draft = { source: '', old: { elements: 1 }, wanted: { supply_volts: 240, phases: 1, stages: 1, control: '24 V' as const }, kit: { kw: 10 } }
  expect(kitOf(draft)).toBeNull()
  expect(kitOf({ ...draft, kit: { kw: 10, rated_volts: 240 } })).toMatchObject({ kw: 10, stages_kw: [] })
})

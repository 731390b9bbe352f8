import { expect, test } from 'vitest'

import type { Strip, StripRow } from '../../api/schema.gen'
import { choicesFor, moveWords } from './moves'

const row = (part: string, ahead: string | null): StripRow => ({
  part,
  kind: 'lug',
  name: part,
  device: '',
  detail: '',
  role: ahead ? 'series' : 'source',
  idle: false,
  zone: 'unit',
  switch: null,
  normally_closed: false,
  carrier_of: null,
  clampable: false,
  takes: [],
  looked_at_as: 'part',
  is_motor: false,
  calls: false,
  moves_contacts: false,
  held: null,
  leads: {},
  marks: {},
  hangs_on: ahead,
  reach: ['L1', 'L2'],
  points: { L1: `L1@${part}`, L2: `L2@${part}` },
  comes_from: ahead ? { L1: `L1@${ahead}`, L2: `L2@${ahead}` } : {},
  point_name: `${part} terminal`,
})
const strip: Strip = {
  sections: [{ root: 'supply', title: '', lanes: ['L1', 'L2', 'G'], rows: [row('supply', null), row('whip', 'supply'), row('lug', 'whip')] }],
}

test('one point offers to lift its lead, a supply’s own point does not', () => {
  expect(choicesFor(strip, 'L1@whip', null).map((one) => one.label)).toEqual(['Lift L1 at whip terminal'])
  expect(choicesFor(strip, 'L1@supply', null)).toEqual([])
  expect(choicesFor(strip, null, null)).toEqual([])
})

test('two points offer a jumper, a move and a swap', () => {
  const choices = choicesFor(strip, 'L1@whip', 'L2@whip')
  expect(choices.map((one) => one.label)).toEqual(['Jumper between the two', 'Move L1 at whip terminal to L2 at whip terminal', 'Swap the two leads'])
  expect(choices[2]?.moves).toEqual([
    { kind: 'landed', lane: 'L1', part: 'whip', at: 'L2@whip' },
    { kind: 'landed', lane: 'L2', part: 'whip', at: 'L1@whip' },
  ])
  expect(choicesFor(strip, 'L1@whip', 'G@lug').map((one) => one.label)).not.toContain('Swap the two leads')
})

test('every change is said in words', () => {
  expect(moveWords(strip, { kind: 'lifted', part: 'lug', lane: 'L2' })).toBe('Lift L2 at lug terminal')
  expect(moveWords(strip, { kind: 'jumper', a: 'L1@whip', b: 'G@lug' })).toBe('Jumper from L1 at whip terminal to ground at lug terminal')
})

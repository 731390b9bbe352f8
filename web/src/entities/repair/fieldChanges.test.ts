import { describe, expect, it } from 'vitest'

import { changesBetween, inverseOf, withChange } from './fieldChanges'

const NOTES = {
  done: ['a', 'b'],
  proof: { numbers: { 'volts:rest': 240 }, ticked: [], reason: '' },
  orders: [
    { id: '1', words: 'fuse', state: 'to_order' },
    { id: '2', words: 'lug', state: 'here' },
  ],
}

describe('changes between two states of the notes', () => {
  it('name the fields that differ and nothing else', () => {
    const next = {
      ...NOTES,
      done: ['b', 'c'],
      proof: { ...NOTES.proof, numbers: { 'amps:L1': 0, 'volts:rest': 240 } },
      orders: [{ id: '2', words: 'lug', state: 'ordered' }],
    }
    expect(changesBetween(NOTES, next)).toEqual([
      { path: ['done', 'a'], was: true, now: null },
      { path: ['done', 'c'], was: null, now: true },
      { path: ['proof', 'numbers', 'amps:L1'], was: null, now: 0 },
      { path: ['orders', '1'], was: NOTES.orders[0], now: null },
      { path: ['orders', '2', 'state'], was: 'here', now: 'ordered' },
    ])
    expect(changesBetween(NOTES, structuredClone(NOTES))).toEqual([])
  })
  it('lead from one to the other, and back', () => {
    const next = {
      done: ['b'],
      proof: { numbers: {}, ticked: ['x'], reason: 'cold' },
      orders: [NOTES.orders[1], { id: '3', words: 'clip', state: 'to_order' }],
    }
    const changes = changesBetween(NOTES, next)
    expect(changes.reduce(withChange, NOTES as unknown)).toEqual(next)
    const back = inverseOf(changes).reduce(withChange, next as unknown) as typeof NOTES
    // What comes back stands last in its list; nothing else differs.
    expect(back.proof).toEqual(NOTES.proof)
    expect(new Set(back.done)).toEqual(new Set(NOTES.done))
    expect(new Set(back.orders.map((row) => row.id))).toEqual(new Set(['1', '2']))
  })
})

import { describe, expect, it } from 'vitest'

import type { CallSummary } from '../../api/schema.gen'
import { byDay } from './days'
import { type CallForm, NEW, newCallFrom } from './newCall'

const at = (local: string) => ({ id: local, starts_at: new Date(local).toISOString() }) as CallSummary

describe('calls by day', () => {
  it('puts today first, then the latest day, each by the clock, in local time', () => {
    const now = new Date('2026-03-10T09:00')
    const days = byDay([at('2026-03-10T16:00'), at('2026-03-08T10:00'), at('2026-03-10T00:10'), at('2026-03-11T08:00')], now)
    expect(days.map(({ list }) => list.map(({ id }) => id))).toEqual([
      ['2026-03-10T00:10', '2026-03-10T16:00'],
      ['2026-03-11T08:00'],
      ['2026-03-08T10:00'],
    ])
    expect(days[0]?.day).toBe('Today')
  })
})

describe('the form of a new call', () => {
  let count = 0
  const makeId = () => `id-${++count}`
  const form: CallForm = { complaint: ' Hums ', technician: 't', site: 's', equipment: 'e', panel: true }
  const now = new Date('2026-03-10T09:00:00Z')

  it('names equipment that is on file', () => {
    expect(newCallFrom(form, now, makeId)).toMatchObject({ complaint: 'Hums', equipment_id: 'e', panel_may_be_opened: true, starts_at: '2026-03-10T09:00:00.000Z' })
  })

  it('describes new equipment at a known site, and at a new one', () => {
    const known = newCallFrom({ ...form, equipment: NEW, equipmentName: 'Unit', circuit: 'c' }, now, makeId)
    expect(known.new_equipment).toMatchObject({ site_id: 's', site_name: '', equipment_name: 'Unit', circuit: 'c' })
    const fresh = newCallFrom({ ...form, site: NEW, siteName: ' Pier ', equipmentName: 'Unit', circuit: 'c' }, now, makeId)
    expect(fresh.new_equipment?.site_name).toBe('Pier')
    expect(fresh.new_equipment?.site_id).toMatch(/^id-/)
    expect(fresh.equipment_id).toBeUndefined()
  })
})

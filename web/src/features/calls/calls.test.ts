import { describe, expect, it } from 'vitest'

import type { CallSummary, Complaint } from '../../api/schema.gen'
import { byDay } from '../../entities/call/days'
import { type CallDraft, newCallFrom } from './newCall'

const at = (local: string) => ({ id: local, starts_at: new Date(local).toISOString() }) as CallSummary

describe('calls by day', () => {
  it('puts today first, then the latest day, each with the newest on top, in local time', () => {
    const now = new Date('2026-03-10T09:00')
    const days = byDay([at('2026-03-10T16:00'), at('2026-03-08T10:00'), at('2026-03-10T00:10'), at('2026-03-11T08:00')], now)
    expect(days.map(({ list }) => list.map(({ id }) => id))).toEqual([['2026-03-10T16:00', '2026-03-10T00:10'], ['2026-03-11T08:00'], ['2026-03-08T10:00']])
    expect(days[0]?.day).toBe('Today')
  })
})

describe('a new call', () => {
  const ids = { call: 'c', equipment: 'e', site: 's' }
  const known: Complaint[] = [
    { words: 'No heat', signs: ['nothing_runs'] },
    { words: 'Since a storm', signs: ['since_storm'] },
  ]
  const draft: CallDraft = { chosen: ['No heat', 'Since a storm'], words: ' upstairs ', technicianId: 't', panel: true }
  const now = new Date('2026-03-10T09:00:00Z')

  it('says what was told, and names equipment that is on file', () => {
    expect(newCallFrom(draft, { equipmentId: 'known' }, known, ids, now)).toEqual({
      id: 'c',
      technician_id: 't',
      complaint: 'No heat, Since a storm, upstairs',
      starts_at: '2026-03-10T09:00:00.000Z',
      panel_may_be_opened: true,
      told: ['nothing_runs', 'since_storm'],
      visit: 'service',
      equipment_id: 'known',
    })
  })

  it('describes new equipment at a known site, and at a new one', () => {
    const on = { circuit: 'heat_strip', name: 'Heat strip' }
    expect(newCallFrom(draft, { ...on, site: { id: 'known' } }, known, ids, now).new_equipment).toMatchObject({
      site_id: 'known',
      site_name: '',
      equipment_id: 'e',
    })
    expect(newCallFrom(draft, { ...on, site: { name: 'Pier', address: '' } }, known, ids, now).new_equipment).toMatchObject({ site_id: 's', site_name: 'Pier' })
  })
})

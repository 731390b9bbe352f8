import type { Complaint, NewCall, Scope } from '../../api/schema.gen'

/** What is chosen for a new call before its equipment. */
export type CallDraft = {
  /** Words of the complaints chosen. */
  chosen: readonly string[]
  words: string
  technicianId: string
  panel: NonNullable<Scope['panel_may_be_opened']>
}

/** On what: equipment on file, or a ready-made circuit at a site that is on file or not. */
export type On = { equipmentId: string } | { circuit: string; name: string; site: { id: string } | { name: string; address: string } }

/** Ids of what a new call may put on file, made once for each page, so that a double tap makes one call. */
export type Ids = { call: string; equipment: string; site: string }

export const makeIds = (): Ids => ({ call: crypto.randomUUID(), equipment: crypto.randomUUID(), site: crypto.randomUUID() })

/** The complaint as the list of calls shows it: what was chosen, then what was typed. */
export const complaintOf = ({ chosen, words }: CallDraft) => [...chosen, words.trim()].filter(Boolean).join(', ')

/** What was chosen, as the request that opens the call. */
export function newCallFrom(draft: CallDraft, on: On, known: readonly Complaint[], ids: Ids, now: Date): NewCall {
  const call = {
    id: ids.call,
    technician_id: draft.technicianId,
    complaint: complaintOf(draft),
    starts_at: now.toISOString(),
    panel_may_be_opened: draft.panel,
    visit: 'service' as const,
    told: [...new Set(known.filter((one) => draft.chosen.includes(one.words)).flatMap((one) => one.signs))],
  }
  if ('equipmentId' in on) return { ...call, equipment_id: on.equipmentId }
  const { site } = on
  const known_ = 'id' in site
  return {
    ...call,
    new_equipment: {
      equipment_id: ids.equipment,
      equipment_name: on.name,
      circuit: on.circuit,
      site_id: known_ ? site.id : ids.site,
      site_name: known_ ? '' : site.name,
      site_address: known_ ? '' : site.address,
    },
  }
}

import type { NewCall } from '../../api/schema.gen'

/** Stands for “a new one” in a pick-list. */
export const NEW = 'new'

export type CallForm = {
  complaint: string
  technician: string
  site: string
  siteName?: string
  siteAddress?: string
  equipment?: string
  equipmentName?: string
  circuit?: string
  panel?: boolean
}

/** The form as the request that opens the call; every id is made here, so that sending it twice changes nothing. */
export function newCallFrom(form: CallForm, now: Date, makeId: () => string = () => crypto.randomUUID()): NewCall {
  const call = {
    id: makeId(),
    technician_id: form.technician,
    complaint: form.complaint.trim(),
    starts_at: now.toISOString(),
    panel_may_be_opened: form.panel ?? false,
  }
  if (form.site !== NEW && form.equipment && form.equipment !== NEW) return { ...call, equipment_id: form.equipment }
  return {
    ...call,
    new_equipment: {
      equipment_id: makeId(),
      equipment_name: form.equipmentName?.trim() ?? '',
      circuit: form.circuit ?? '',
      site_id: form.site === NEW ? makeId() : form.site,
      site_name: form.site === NEW ? (form.siteName?.trim() ?? '') : '',
      site_address: form.siteAddress?.trim() ?? '',
    },
  }
}

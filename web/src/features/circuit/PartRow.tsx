import { InputNumber, Select } from 'antd'
import { useState } from 'react'

import type { Circuit, Part, PartKind, StripRow } from '../../api/schema.gen'
import { type Edit, formOf, GAUGES, newPart, type PartForm, partFrom } from './parts'

type Props = {
  row: StripRow
  part: Part
  circuit: Circuit
  kinds: PartKind[]
  isOpen: boolean
  toggle: () => void
  busy: boolean
  change: (edit: Edit) => void
}

/** One part: its name and size, and when touched the ways to change it. */
export function PartRow({ row, part, circuit, kinds, isOpen, toggle, busy, change }: Props) {
  const lanes = Object.keys(row.points).length ? Object.keys(row.points) : Object.keys(row.comes_from)
  return (
    <div className={`part-row ${isOpen ? 'is-open' : ''}`}>
      <button type="button" className="part-head" aria-expanded={isOpen} onClick={toggle}>
        <span className="part-lanes num">{lanes.filter((lane) => lane !== 'G').join(' ')}</span>
        <span>
          <strong>{row.name}</strong>
          <span className="quiet"> {[row.device, row.detail].filter(Boolean).join(' · ')}</span>
        </span>
      </button>
      {isOpen ? <PartEditor {...{ row, part, circuit, kinds, busy, change }} /> : null}
    </div>
  )
}

function PartEditor({ row, part, circuit, kinds, busy, change }: Omit<Props, 'isOpen' | 'toggle'>) {
  const [form, setForm] = useState<PartForm>(formOf(part))
  const [kind, setKind] = useState<string | null>(null)
  const set = (more: Partial<PartForm>) => setForm({ ...form, ...more })
  const chosen = kinds.find((one) => one.kind === kind)
  const isSource = row.role === 'source'
  return (
    <div className="part-editor">
      <form
        onSubmit={(event) => {
          event.preventDefault()
          change({ do: 'change', part: partFrom(part, form) })
        }}
      >
        <div className="part-fields">
          <label>
            Name
            <input value={form.name} maxLength={60} onChange={(event) => set({ name: event.target.value })} />
          </label>
          {part.conductor ? (
            <>
              <label>
                Size
                <Select aria-label="Size" value={form.size_awg} options={GAUGES} onChange={(size_awg: number) => set({ size_awg })} />
              </label>
              <label>
                Metal
                <Select aria-label="Metal" value={form.metal} options={[{ value: 'copper' as const, label: 'copper' }, { value: 'aluminium' as const, label: 'aluminum' }]} onChange={(metal) => set({ metal })} />
              </label>
              <Amount label="Length, one way" unit="ft" value={form.length_ft} max={1600} set={(length_ft) => set({ length_ft })} />
            </>
          ) : null}
          {part.load ? (
            <>
              <Amount label="Nameplate volts" unit="V" value={form.volts} max={1000} set={(volts) => set({ volts })} />
              <Amount label="Nameplate amps" unit="A" value={form.amps} max={1000} set={(amps) => set({ amps })} />
              <Amount label="Power factor" unit="" value={form.power_factor} max={1} set={(power_factor) => set({ power_factor })} />
            </>
          ) : null}
          {part.capacitance_uf ? <Amount label="Capacitance" unit="µF" value={form.capacitance_uf} max={1000} set={(capacitance_uf) => set({ capacitance_uf })} /> : null}
          {part.rating_amps || row.switch ? <Amount label="Rating" unit="A" value={form.rating_amps} max={1000} set={(rating_amps) => set({ rating_amps })} /> : null}
        </div>
        <div className="part-actions">
          <button type="submit" className="accent-button" disabled={busy}>
            Change
          </button>
          {isSource ? null : (
            <button type="button" className="plain-button" disabled={busy} onClick={() => change({ do: 'remove', part: part.id })}>
              Take it out
            </button>
          )}
        </div>
      </form>
      {row.role === 'shunt' ? null : (
        <div className="part-insert">
          <Select
            aria-label="Kind of part to put in"
            placeholder="Put a part in behind it …"
            showSearch={{ optionFilterProp: 'label' }}
            value={kind}
            options={kinds.filter((one) => one.needs !== 'plate' && one.kind !== 'capacitor').map((one) => ({ value: one.kind, label: one.label }))}
            onChange={setKind}
          />
          <button type="button" className="plain-button" disabled={!chosen || busy} onClick={() => chosen && change({ do: 'insert', behind: part.id, ...newPart(circuit, part, chosen) })}>
            Put in
          </button>
        </div>
      )}
    </div>
  )
}

type AmountProps = { label: string; unit: string; value: number | undefined; max: number; set: (value: number | undefined) => void }

function Amount({ label, unit, value, max, set }: AmountProps) {
  return (
    <label>
      {label}
      <InputNumber aria-label={label} value={value} min={0} max={max} suffix={unit} inputMode="decimal" onChange={(next) => set(next ?? undefined)} />
    </label>
  )
}

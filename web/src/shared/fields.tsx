import { useState } from 'react'

type NumberFieldProps = { label: string; unit: string; value: number | null | undefined; set: (value: number | null) => void }

/** A number with its unit; empty where it is not known. */
export function NumberField({ label, unit, value, set }: NumberFieldProps) {
  const [text, setText] = useState(value === null || value === undefined ? '' : String(value))
  const bad = text.trim() !== '' && !Number.isFinite(Number(text))
  return (
    <label>
      {label}
      <span className="unit-box">
        <input
          className="num"
          inputMode="decimal"
          autoComplete="off"
          aria-invalid={bad}
          value={text}
          placeholder="not known"
          onChange={(event) => {
            const typed = event.target.value.replace(',', '.')
            setText(typed)
            if (typed.trim() === '') set(null)
            else if (Number.isFinite(Number(typed))) set(Number(typed))
          }}
        />
        <span className="num">{unit}</span>
      </span>
    </label>
  )
}

type ChoiceFieldProps<T extends string | number> = { label: string; value: T | null | undefined; options: readonly (readonly [T, string])[]; set: (value: T | null) => void }

/** One of a few, or not known. */
export function ChoiceField<T extends string | number>({ label, value, options, set }: ChoiceFieldProps<T>) {
  return (
    <label>
      {label}
      <select value={value ?? ''} onChange={(event) => set(options.find(([key]) => String(key) === event.target.value)?.[0] ?? null)}>
        <option value="">not known</option>
        {options.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </label>
  )
}

/** Yes, no, or not known. */
export function YesNoField({ label, value, set }: { label: string; value: boolean | null | undefined; set: (value: boolean | null) => void }) {
  const told = value === null || value === undefined ? null : value ? 'yes' : 'no'
  return <ChoiceField label={label} value={told} options={[['yes', 'yes'], ['no', 'no']] as const} set={(one) => set(one === null ? null : one === 'yes')} />
}

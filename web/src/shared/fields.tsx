import { useState } from 'react'

import { signedNumberOf } from './numbers'

type NumberFieldProps = { label: string; unit: string; value: number | null | undefined; set: (value: number | null) => void }

/** A number with its unit; empty where it is not known. */
export function NumberField({ label, unit, value, set }: NumberFieldProps) {
  const [text, setText] = useState(value === null || value === undefined ? '' : String(value))
  const { why } = signedNumberOf(text)
  return (
    <div>
      <label>
        {label}
        <span className="unit-box">
          <input
            className="num"
            inputMode="decimal"
            autoComplete="off"
            aria-invalid={why !== ''}
            value={text}
            placeholder="not known"
            onChange={(event) => {
              const typed = event.target.value
              setText(typed)
              const told = signedNumberOf(typed)
              if (told.why === '') set(told.value)
            }}
          />
          <span className="num">{unit}</span>
        </span>
      </label>
      {why ? (
        <p className="problem" role="alert">
          {why}
        </p>
      ) : null}
    </div>
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

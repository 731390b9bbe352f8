import { Input, Select } from 'antd'
import { type ReactNode } from 'react'

import { signedNumberOf } from './numbers'
import { useNumberText } from './useNumberText'

/** A label above its field. */
function Labelled({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="labelled">
      {label}
      {children}
    </label>
  )
}

type TextFieldProps = { label: string; value: string; set: (text: string) => void; placeholder?: string; most?: number }

/** A name, or a few words. */
export function TextField({ label, value, set, placeholder = '', most = 60 }: TextFieldProps) {
  return (
    <Labelled label={label}>
      <Input value={value} maxLength={most} placeholder={placeholder} autoComplete="off" onChange={(event) => set(event.target.value)} />
    </Labelled>
  )
}

/** Narrows what a page shows, as one types. */
export function SearchField({ label, value, set, placeholder }: { label: string; value: string; set: (text: string) => void; placeholder: string }) {
  return (
    <Input
      type="search"
      className="search-field"
      aria-label={label}
      value={value}
      maxLength={80}
      placeholder={placeholder}
      onChange={(event) => set(event.target.value)}
    />
  )
}

type TypedNumberProps = { label: string; unit: string; text: string; type: (text: string) => void; placeholder?: string; isBad?: boolean }

/** A number as it is typed, with its unit: never altered behind one's back. */
export function TypedNumber({ label, unit, text, type, placeholder = '', isBad = false }: TypedNumberProps) {
  return (
    <Labelled label={label}>
      <Input
        className="num"
        inputMode="decimal"
        autoComplete="off"
        status={isBad ? 'error' : ''}
        aria-invalid={isBad}
        suffix={unit}
        value={text}
        placeholder={placeholder}
        onChange={(event) => type(event.target.value)}
      />
    </Labelled>
  )
}

type NumberFieldProps = { label: string; unit: string; value: number | null | undefined; set: (value: number | null) => void; whole?: boolean }

/** A number with its unit; empty where it is not known. */
export function NumberField({ label, unit, value, set, whole = false }: NumberFieldProps) {
  const { text, typed, type: show, restore } = useNumberText(value)
  const whyNot = ({ value: number, why }: typeof typed) =>
    why === '' && whole && number !== null && !Number.isInteger(number) ? 'Type a whole number: these are counted.' : why
  const why = whyNot(typed)
  const type = (next: string) => {
    show(next)
    const number = signedNumberOf(next)
    if (whyNot(number) === '') set(number.value)
  }
  return (
    // Where there must be a number, an emptied field shows the one that stands.
    <div onBlur={() => (text.trim() === '' ? restore() : undefined)}>
      <TypedNumber label={label} unit={unit} text={text} type={type} placeholder="not known" isBad={why !== ''} />
      {why ? (
        <p className="problem" role="alert">
          {why}
        </p>
      ) : null}
    </div>
  )
}

export type PickFieldProps<T extends string | number> = { label: string; value: T; options: readonly (readonly [T, string])[]; set: (value: T) => void }

/** One of a few. */
export function PickField<T extends string | number>({ label, value, options, set }: PickFieldProps<T>) {
  return (
    <Labelled label={label}>
      <Select<T>
        aria-label={label}
        virtual={false}
        popupMatchSelectWidth={false}
        value={value}
        options={options.map(([key, words]) => ({ value: key, label: words }))}
        onChange={set}
      />
    </Labelled>
  )
}

type ChoiceFieldProps<T extends string | number> = {
  label: string
  value: T | null | undefined
  options: readonly (readonly [T, string])[]
  set: (value: T | null) => void
  none?: string
}

const NOT_KNOWN = 'not known'

/** One of a few, or not known. */
export function ChoiceField<T extends string | number>({ label, value, options, set, none = NOT_KNOWN }: ChoiceFieldProps<T>) {
  const all: (readonly [T | typeof NOT_KNOWN, string])[] = [[NOT_KNOWN, none], ...options]
  return <PickField<T | typeof NOT_KNOWN> label={label} value={value ?? NOT_KNOWN} options={all} set={(one) => set(one === NOT_KNOWN ? null : (one as T))} />
}

/** Yes, no, or not known. */
export function YesNoField({ label, value, set }: { label: string; value: boolean | null | undefined; set: (value: boolean | null) => void }) {
  const told = value === null || value === undefined ? null : value ? 'yes' : 'no'
  return (
    <ChoiceField
      label={label}
      value={told}
      options={
        [
          ['yes', 'yes'],
          ['no', 'no'],
        ] as const
      }
      set={(one) => set(one === null ? null : one === 'yes')}
    />
  )
}

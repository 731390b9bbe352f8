import { Checkbox, Input } from 'antd'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'
import { shown, UNIT_SIGNS } from '../../shared/units'
import { signedNumberOf } from '../../shared/numbers'

type Item = CallRepair['proof']['items'][number]
type Props = { item: Item; ticked: boolean; mayChange: boolean; setNumber: (value: number | null) => void; tick: () => void }

const MARKS: Record<Item['standing'], string> = { missing: 'to do', met: 'met', not_met: 'not met', later: 'not today', informs: '' }

/** One thing that a proof asks: a number with its unit and its limit, or a thing to tick; and how it stands. */
export function ProofRow({ item, ticked, mayChange, setNumber, tick }: Props) {
  return (
    <li className={`proof-row ${item.standing}`}>
      {item.unit === null ? (
        <Checkbox checked={ticked} disabled={!mayChange} onChange={tick}>
          {item.label}
        </Checkbox>
      ) : (
        <span className="proof-words">
          <b>{item.label}</b>
          {item.must ? <span className="quiet">{item.must}</span> : null}
        </span>
      )}
      {item.unit === null ? null : item.asked ? (
        <NumberEntry key={item.value ?? 'none'} label={item.label} unit={UNIT_SIGNS[item.unit]} value={item.value} mayChange={mayChange} set={setNumber} />
      ) : (
        <span className="proof-number num">
          {item.value === null ? '' : shown(item.value)} {UNIT_SIGNS[item.unit]}
        </span>
      )}
      <span className="proof-mark">{MARKS[item.standing]}</span>
      {item.says ? <p className="proof-says">{item.says}</p> : null}
    </li>
  )
}

function NumberEntry({ label, unit, value, mayChange, set }: { label: string; unit: string; value: number | null; mayChange: boolean; set: (value: number | null) => void }) {
  const [text, setText] = useState(value === null ? '' : String(value))
  const told = signedNumberOf(text)
  const keep = () => {
    if (!told.why && told.value !== value) set(told.value)
  }
  return (
    <span className="proof-number">
      <Input className="num" aria-label={label} inputMode="decimal" autoComplete="off" disabled={!mayChange} status={told.why ? 'error' : ''} aria-invalid={told.why !== ''} suffix={unit} value={text} onChange={(event) => setText(event.target.value)} onBlur={keep} onPressEnter={keep} />
      {told.why ? (
        <span className="problem" role="alert">
          {told.why}
        </span>
      ) : null}
    </span>
  )
}

import { Checkbox, Input } from 'antd'

import type { CallRepair } from '../../api/schema.gen'
import { shown, UNIT_SIGNS } from '../../shared/units'
import { useLeaving } from '../../shared/useLeaving'
import { useNumberText } from '../../shared/useNumberText'

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
        <NumberEntry label={item.label} unit={UNIT_SIGNS[item.unit]} value={item.value} mayChange={mayChange} set={setNumber} />
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

function NumberEntry({
  label,
  unit,
  value,
  mayChange,
  set,
}: {
  label: string
  unit: string
  value: number | null
  mayChange: boolean
  set: (value: number | null) => void
}) {
  const { text, typed, type } = useNumberText(value)
  const keep = () => {
    if (!typed.why && typed.value !== value) set(typed.value)
  }
  useLeaving(keep)
  return (
    <span className="proof-number">
      <Input
        className="num"
        aria-label={label}
        inputMode="decimal"
        autoComplete="off"
        disabled={!mayChange}
        status={typed.why ? 'error' : ''}
        aria-invalid={typed.why !== ''}
        suffix={unit}
        value={text}
        onChange={(event) => type(event.target.value)}
        onBlur={keep}
        onPressEnter={keep}
      />
      {typed.why ? (
        <span className="problem" role="alert">
          {typed.why}
        </span>
      ) : null}
    </span>
  )
}

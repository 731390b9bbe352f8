import { Input } from 'antd'
import dayjs from 'dayjs'

type Props = { label: string; value: string | null; set: (day: string | null) => void; disabled?: boolean; fromToday?: boolean; isBare?: boolean }

/** A day, chosen in the device's own calendar, which stays on its screen; as YYYY-MM-DD, in local time. */
export function DayField({ label, value, set, disabled = false, fromToday = false, isBare = false }: Props) {
  const first = fromToday ? dayjs().format('YYYY-MM-DD') : undefined
  return (
    <label className={isBare ? 'day-chip' : 'labelled'}>
      {isBare ? null : label}
      <Input
        type="date"
        aria-label={label}
        title={label}
        className="day-field num"
        disabled={disabled}
        min={first}
        value={value ?? ''}
        onChange={(event) => set(event.target.value || null)}
      />
    </label>
  )
}

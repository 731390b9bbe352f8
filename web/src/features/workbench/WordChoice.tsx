import { UNITS } from '../../api/observations.gen'
import type { Reading } from '../../api/schema.gen'
import { valuesOf } from '../../entities/strip/setup'

/** The few things that can be said where no number is read. */
export function WordChoice({ unit, chosen, choose }: { unit: Reading['unit']; chosen: string; choose: (value: number) => void }) {
  return (
    <div className="sequence" role="group" aria-label={UNITS[unit].asks || 'What it shows'}>
      {valuesOf(unit).map(({ value, words }) => (
        <button key={value} type="button" className="num" aria-pressed={chosen === String(value)} onClick={() => choose(value)}>
          {words}
        </button>
      ))}
    </div>
  )
}

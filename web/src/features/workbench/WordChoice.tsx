import type { Reading } from '../../api/schema.gen'
import { valueWords } from '../../entities/reading/words'
import { WORDS } from '../../entities/strip/setup'

const SAYS: Partial<Record<Reading['unit'], string>> = { seq: 'Phase sequence shown', beep: 'What the tester says', run: 'What is seen and heard' }

/** The few things that can be said where no number is read. */
export function WordChoice({ unit, chosen, choose }: { unit: Reading['unit']; chosen: string; choose: (value: number) => void }) {
  return (
    <div className="sequence" role="group" aria-label={SAYS[unit] ?? 'What it shows'}>
      {(WORDS[unit] ?? []).map((value) => (
        <button key={value} type="button" className="num" aria-pressed={chosen === String(value)} onClick={() => choose(value)}>
          {valueWords(value, unit)}
        </button>
      ))}
    </div>
  )
}

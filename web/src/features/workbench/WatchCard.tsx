import { useState } from 'react'

import type { NextTest } from '../../api/schema.gen'
import { WordChoice } from './WordChoice'

type Props = { test: NextTest; busy: boolean; record: (values: readonly (number | null)[]) => void }

/** What is seen and heard, answered on the card itself: the meter stays as it is. */
export function WatchCard({ test, busy, record }: Props) {
  const [texts, setTexts] = useState<readonly string[]>(test.measurements.map(() => ''))
  const values = texts.map((text) => (text === '' ? null : Number(text)))
  return (
    <div className="numbers">
      {test.measurements.map((measurement, i) => (
        <div key={measurement.place.kind === 'watching' ? measurement.place.part : i} className="numbers-words">
          {test.words.length > 1 ? <span>{test.words[i]}</span> : null}
          <WordChoice unit="run" chosen={texts[i] ?? ''} choose={(value) => setTexts(texts.map((text, k) => (k === i ? String(value) : text)))} />
        </div>
      ))}
      <button type="button" className="accent-button" disabled={busy || values.every((one) => one === null)} onClick={() => record(values)}>
        Record
      </button>
    </div>
  )
}

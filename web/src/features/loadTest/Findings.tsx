import { useState } from 'react'

import type { CallLoadTests } from '../../api/schema.gen'

type Report = NonNullable<CallLoadTests['tests'][number]['report']>

const MARKS: Record<Report['findings'][number]['mark'], string> = { look: 'look', tells: 'note', good: 'good' }
const ORDER = ['look', 'good', 'tells'] as const
const SHOWN = 8

/** What a load test says, what asks for a look first. */
export function Findings({ report }: { report: Report }) {
  const [all, setAll] = useState(false)
  const sorted = ORDER.flatMap((mark) => report.findings.filter((one) => one.mark === mark))
  const shown = all ? sorted : sorted.slice(0, SHOWN)
  return (
    <>
      <ul className="trace-findings">
        {shown.map((one, i) => (
          <li key={`${one.title}${i}`} className={one.mark}>
            <span className="proof-mark">{MARKS[one.mark]}</span>
            <span>
              <b>{one.title}</b> <span>{one.says}</span>
            </span>
          </li>
        ))}
      </ul>
      {sorted.length > shown.length ? (
        <button type="button" className="plain-button" onClick={() => setAll(true)}>
          All {sorted.length} findings
        </button>
      ) : null}
    </>
  )
}

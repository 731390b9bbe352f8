import type { Finding } from '../../api/schema.gen'
import { Arithmetic } from '../../shared/Arithmetic'

const WHO = { technician: 'technician', electrician: 'electrician', utility: 'utility' } as const

export const SIGNS: Record<Finding['status'], string> = { not_met: '✕', advice: '!', cannot_tell: '?', met: '✓' }

/** What all findings come to. */
export function RatedSum({ findings, edition }: { findings: readonly Finding[]; edition: string }) {
  const advice = findings.filter((one) => one.status === 'advice').length
  const worst = findings.some((one) => one.status === 'not_met')
  return (
    <p className={`rated-sum ${worst ? 'bad' : ''}`}>
      <strong>{sumOf(findings)}</strong>
      <span className="quiet">
        {advice ? `advice: ${advice} · ` : ''}NEC {edition}
      </span>
    </p>
  )
}

/** What it comes to; what is still open is said with it. */
function sumOf(findings: readonly Finding[]): string {
  const count = (status: Finding['status']) => findings.filter((one) => one.status === status).length
  const [wrong, open] = [count('not_met'), count('cannot_tell')]
  if (wrong) return `${wrong} not met${open ? `, ${open} not judged yet` : ''}`
  return open ? `${count('met')} met, ${open} not judged yet` : `All ${count('met')} met`
}

/** A finding in a line. */
function Summary({ status, title, words }: { status: Finding['status']; title: string; words: string }) {
  return (
    <summary>
      <span className="sign" aria-hidden="true">
        {SIGNS[status]}
      </span>
      <span className="finding-words">
        <strong>{title}</strong>
        <span>{words}</span>
      </span>
    </summary>
  )
}

/** One finding: in a line, and opened with its arithmetic, source and consequence. */
export function Row({ finding }: { finding: Finding }) {
  const { status, label, about, words, source, consequence, who, found, required, assumed } = finding
  return (
    <li className={`finding ${status}`}>
      <details>
        <Summary status={status} title={`${label}: ${about}`} words={words} />
        {found ? <Arithmetic worked={found} title="Found" /> : null}
        {required ? (
          <Arithmetic
            worked={required}
            title={required.steps.at(-1)?.unit === 'AWG' ? 'This or thicker' : finding.relation === 'at_most' ? 'At most' : 'At least'}
          />
        ) : null}
        {assumed.length ? <p className="quiet">Taken for granted: {assumed.join('; ')}.</p> : null}
        {consequence ? <p>{consequence}</p> : null}
        <p className="quiet">
          {source}. {consequence ? `To put right: ${WHO[who]}, within their licence.` : ''}
        </p>
      </details>
    </li>
  )
}

/** What was found without a rule of its own: its sign, a sentence, and the arithmetic on demand. */
export function PlainRow({
  found: { label, status, words, worked },
  unworked,
}: {
  found: { label: string; status: Finding['status']; words: string; worked?: Finding['found'] }
  unworked: string
}) {
  return (
    <li className={`finding ${status}`}>
      <details>
        <Summary status={status} title={label} words={words} />
        {worked ? <Arithmetic worked={worked} /> : <p className="quiet">{unworked}</p>}
      </details>
    </li>
  )
}

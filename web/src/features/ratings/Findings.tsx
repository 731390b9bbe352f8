import type { Finding } from '../../api/schema.gen'
import { Arithmetic } from '../../shared/Arithmetic'

const STANDINGS = [
  { status: 'not_met', title: 'Not met', sign: '✕' },
  { status: 'advice', title: 'Advice', sign: '!' },
  { status: 'cannot_tell', title: 'Cannot tell yet', sign: '?' },
  { status: 'met', title: 'Met', sign: '✓' },
] as const

const WHO = { technician: 'technician', electrician: 'electrician', utility: 'utility' } as const

/** Findings, what can hurt somebody first; those that are met or wait for more are folded away. */
export function Findings({ findings, edition }: { findings: readonly Finding[]; edition: string }) {
  const counts = STANDINGS.map(({ status, title, sign }) => ({ title, sign, status, list: findings.filter((one) => one.status === status) }))
  const worst = counts[0]?.list.length ?? 0
  return (
    <section aria-label="Findings">
      <p className={`rated-sum ${worst ? 'bad' : ''}`}>
        <strong>{worst ? `${worst} not met` : 'Nothing is found wrong'}</strong>
        <span className="quiet">
          {counts
            .slice(1)
            .map(({ title, list }) => `${title.toLowerCase()}: ${list.length}`)
            .join(' · ')}{' '}
          · NEC {edition}
        </span>
      </p>
      {counts.map(({ title, status, sign, list }) =>
        list.length === 0 ? null : (
          <details key={status} className={`standing ${status}`} open={status === 'not_met' || status === 'advice'}>
            <summary>
              {title} <span className="num">{list.length}</span>
            </summary>
            <ul className="findings">
              {list.map((one, i) => (
                <Row key={`${one.rule} ${one.about} ${i}`} finding={one} sign={sign} />
              ))}
            </ul>
          </details>
        ),
      )}
    </section>
  )
}

function Row({ finding, sign }: { finding: Finding; sign: string }) {
  const { status, label, about, words, source, consequence, who, found, required, assumed } = finding
  return (
    <li className={`finding ${status}`}>
      <details>
        <summary>
          <span className="sign" aria-hidden="true">
            {sign}
          </span>
          <span className="finding-words">
            <strong>
              {label}: {about}
            </strong>
            <span>{words}</span>
          </span>
        </summary>
        {found ? <Arithmetic worked={found} title="Found" /> : null}
        {required ? <Arithmetic worked={required} title={required.steps.at(-1)?.unit === 'AWG' ? 'This or thicker' : finding.relation === 'at_most' ? 'At most' : 'At least'} /> : null}
        {assumed.length ? <p className="quiet">Taken for granted: {assumed.join('; ')}.</p> : null}
        {consequence ? <p>{consequence}</p> : null}
        <p className="quiet">
          {source}. {consequence ? `To put right: ${WHO[who]}, within their licence.` : ''}
        </p>
      </details>
    </li>
  )
}

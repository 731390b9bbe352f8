import type { Circuit, Finding } from '../../api/schema.gen'
import { Row, SIGNS } from '../../entities/sheet/Findings'
import { shown } from '../../shared/units'

type Props = { circuit: Circuit; source: string; findings: readonly Finding[]; fillIn: () => void }

const WORST: readonly Finding['status'][] = ['not_met', 'advice', 'cannot_tell', 'met']

/** The circuit from the source on, each part with a mark: what it has, what is required; a touch opens the arithmetic. */
export function RatingsStrip({ circuit, source, findings, fillIn }: Props) {
  const parts = circuit.parts.filter((part) => findings.some((one) => one.part === part.id))
  const whole = findings.filter((one) => !parts.some((part) => part.id === one.part))
  return (
    <section className="rated-strip" aria-label="Ratings, from the source to the load" data-source={source}>
      <ol>
        {parts.map((part) => (
          <PartMarks key={part.id} name={part.name} device={part.device ?? ''} findings={findings.filter((one) => one.part === part.id)} fillIn={fillIn} />
        ))}
        {whole.length ? <PartMarks name="The circuit as a whole" device="" findings={whole} fillIn={fillIn} /> : null}
      </ol>
    </section>
  )
}

function PartMarks({ name, device, findings, fillIn }: { name: string; device: string; findings: readonly Finding[]; fillIn: () => void }) {
  const inOrder = [...findings].sort((a, b) => WORST.indexOf(a.status) - WORST.indexOf(b.status))
  const [worst] = inOrder
  if (!worst) return null
  const compared = inOrder.find((one) => one.found && one.required)
  const wanted = [...new Set(findings.filter((one) => one.status === 'cannot_tell').flatMap((one) => one.missing ?? []))]
  return (
    <li className={`rated-part ${worst.status}`}>
      <details open={worst.status === 'not_met'}>
        <summary>
          <span className="sign" aria-hidden="true">
            {SIGNS[worst.status]}
          </span>
          <span className="rated-name">
            <strong>{name}</strong>
            <span className="quiet">
              {device ? `${device} · ` : ''}
              {countsOf(findings)}
            </span>
          </span>
          {compared ? <Compared finding={compared} /> : null}
        </summary>
        <ul className="findings">
          {inOrder.map((one, i) => (
            <Row key={`${one.rule} ${one.about} ${i}`} finding={one} />
          ))}
        </ul>
      </details>
      {wanted.length ? (
        <p className="rated-wanted">
          To judge this I need: {wanted.join('; ')}.{' '}
          <button type="button" className="link-button" onClick={fillIn}>
            Fill in
          </button>
        </p>
      ) : null}
    </li>
  )
}

/** What a part has, and what is required of it. */
function Compared({ finding: { found, required, relation } }: { finding: Finding }) {
  const has = found?.steps.at(-1)
  const wants = required?.steps.at(-1)
  if (!has || !wants) return null
  const than = wants.unit === 'AWG' ? 'or thicker' : relation === 'at_most' ? 'at most' : 'at least'
  return (
    <span className="rated-numbers num">
      <b>
        {shown(has.value)} {has.unit}
      </b>
      <span className="quiet">
        {than === 'or thicker' ? '' : `${than} `}
        {shown(wants.value)} {wants.unit}
        {than === 'or thicker' ? ' or thicker' : ''}
      </span>
    </span>
  )
}

function countsOf(findings: readonly Finding[]): string {
  const count = (status: Finding['status']) => findings.filter((one) => one.status === status).length
  const said: [number, string][] = [
    [count('not_met'), 'not met'],
    [count('advice'), 'advice'],
    [count('cannot_tell'), 'not judged yet'],
    [count('met'), 'met'],
  ]
  return said
    .filter(([number]) => number > 0)
    .map(([number, words]) => `${number} ${words}`)
    .join(', ')
}

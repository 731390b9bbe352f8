import type { TakenNode } from '../../api/schema.gen'
import { StopView } from '../../entities/answer/StopView'
import { percent } from '../../entities/reading/words'

/** What the plan taken along says while there is no signal; or that it was left. */
export function PlanAnswer({ node, left }: { node: TakenNode; left: boolean }) {
  if (left)
    return (
      <section className="verdict from-plan" aria-label="Verdict">
        <span className="verdict-standing">Without a signal</span>
        <p className="verdict-words">This leaves the plan taken along.</p>
        <p className="verdict-advice">Readings are kept here. Go on by the strip; the answer comes with the signal.</p>
      </section>
    )
  return (
    <>
      {node.stop ? <StopView stop={node.stop} /> : null}
      <section className={`verdict from-plan ${node.standing}`} aria-label="Verdict" aria-live="polite">
        <span className="verdict-standing">
          From the plan taken along · confidence <b className="num">{percent(node.probability)}</b>
        </span>
        <p className="verdict-words">{node.words}</p>
        <p className="verdict-advice">{node.advice}</p>
      </section>
      <ul className="plan-suspects">
        {node.suspects.map((one) => (
          <li key={one.words}>
            <b className="num">{percent(one.probability)}</b> {one.words}
          </li>
        ))}
      </ul>
    </>
  )
}

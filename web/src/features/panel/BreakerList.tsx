import type { PanelAnswer, SwitchOnSite } from '../../api/schema.gen'

const SIGNS = { wrong: '✕', look: '!', right: '✓' } as const
const ORDER = ['wrong', 'look', 'right'] as const

/** What is wrong with the breakers' poles, first; then those of several poles that are right. */
export function BreakerList({ answer, switches }: { answer: PanelAnswer; switches: readonly SwitchOnSite[] }) {
  const told = answer.breakers
    .filter((one) => one.standing !== 'right' || one.poles.length > 1)
    .sort((a, b) => ORDER.indexOf(a.standing) - ORDER.indexOf(b.standing))
  return (
    <ul className="panel-told" aria-label="Breakers of this panel">
      {told.map((one) => (
        <li key={one.switch} className={one.standing}>
          <span className="sign" aria-hidden="true">
            {SIGNS[one.standing]}
          </span>
          <span>
            <strong>
              {switches.find((known) => known.id === one.switch)?.name}, {one.poles.join(' and ')}
            </strong>{' '}
            {one.words} {one.move ? <b>{one.move}</b> : null}
          </span>
        </li>
      ))}
    </ul>
  )
}

import type { PanelAnswer, SwitchOnSite } from '../../api/schema.gen'

type Props = { answer: PanelAnswer; switches: readonly SwitchOnSite[]; chosen: number | null; choose: (space: number) => void }

/** The panel as one stands before it: two columns of spaces, each with its leg; a touch chooses one. */
export function PanelGrid({ answer, switches, chosen, choose }: Props) {
  const rows = answer.spaces.length / 2
  return (
    <div className="panel-grid" role="group" aria-label="Spaces of the panel">
      {Array.from({ length: rows }, (_, row) =>
        [0, 1].map((side) => {
          const space = answer.spaces.find((one) => one.row === row && one.side === side)
          if (!space) return null
          const inside = space.switches.map((id) => switches.find((one) => one.id === id)).filter((one) => one !== undefined)
          const known = answer.breakers.filter((one) => space.switches.includes(one.switch))
          const wrong = known.some((one) => one.standing === 'wrong')
          const words = inside.map((one) => [one.name, one.amps ? `${one.amps} A` : ''].filter(Boolean).join(' ')).join(' / ')
          return (
            <button
              key={space.space}
              type="button"
              className={`panel-space side-${side} ${wrong ? 'wrong' : ''}`}
              aria-pressed={chosen === space.space}
              aria-label={`Space ${space.space}, ${space.leg}: ${words || 'empty'}`}
              onClick={() => choose(space.space)}
            >
              <b className="num">{space.space}</b>
              <i className={`leg leg-${space.leg}`}>{space.leg}</i>
              <span className="panel-words">
                {words || <span className="quiet">empty</span>}
                {known.map((one) => (one.feeds ? <small key={one.switch}>{one.is_found ? one.feeds : `labeled ${one.feeds}`}</small> : null))}
              </span>
            </button>
          )
        }),
      )}
    </div>
  )
}

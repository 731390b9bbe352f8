import { lazy, Suspense } from 'react'

import type { Circuit, Strip } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'
import { type Held, isProbes, type Setup, type SetupAction } from '../../entities/strip/setup'
import { GROUND } from '../../shared/point'
import type { HandsGroup } from './HandsMenu'

const HandsMenu = lazy(() => import('./HandsMenu'))

type Props = { circuit: Circuit; strip: Strip; setup: Setup; dispatch: (action: SetupAction) => void }

/** A part by its name. */
export const nameOf = (strip: Strip, part: string) => rowsOf(strip).find((one) => one.part === part)?.name ?? part

/** A contact pushed in or kept out by hand, a lead lifted, a part taken out: said with the reading, as a switch is. */
export function HandsChoice({ circuit, strip, setup, dispatch }: Props) {
  const rows = rowsOf(strip)
  const contacts = circuit.switches.filter((one) => rows.some((row) => row.held === one.id))
  const leads = rows
    .filter((row) => row.role === 'series')
    .flatMap((row) =>
      Object.entries(row.points)
        .filter(([lane]) => lane !== GROUND)
        .map(([lane, point]) => ({ point, words: `${lane} ahead of the ${row.name}` })),
    )
  const parts = rows.filter((row) => Object.keys(row.leads).length > 0)
  const out = parts.filter((row) => setup.hands.removed.includes(row.part))
  const said: { field: keyof Held; id: string; words: string }[] = [
    ...contacts.flatMap(({ id, name }) => [
      ...(setup.hands.pushed_in.includes(id) ? [{ field: 'pushed_in' as const, id, words: `${name} pushed in by hand` }] : []),
      ...(setup.hands.held_out.includes(id) ? [{ field: 'held_out' as const, id, words: `${name} held out by hand` }] : []),
    ]),
    ...setup.hands.lifted.map((id) => ({ field: 'lifted' as const, id, words: `${leads.find((one) => one.point === id)?.words ?? id}: lifted` })),
    ...out.map(({ part, name }) => ({ field: 'removed' as const, id: part, words: `${name[0]?.toUpperCase() ?? ''}${name.slice(1)} taken out` })),
  ]
  // Nothing is asked of hands before something is set up: the strip needs the room.
  const dead = setup.mode === 'ohm' || setup.mode === 'insulation'
  if (!said.length && !dead && !setup.black && !setup.red && !setup.clamp && !setup.picked) return null
  const groups: HandsGroup[] = [
    ...contacts.map(({ id, name }) => ({
      heading: name,
      ways: [
        { field: 'pushed_in' as const, id, words: `${name} pushed in` },
        { field: 'held_out' as const, id, words: `${name} held out` },
      ],
    })),
    { heading: 'Taken out, every lead off', ways: parts.map(({ part, name }) => ({ field: 'removed' as const, id: part, words: name })) },
    { heading: 'Lead lifted', ways: leads.map(({ point, words }) => ({ field: 'lifted' as const, id: point, words })) },
  ]
  return (
    <div className="by-hand">
      {setup.hands.pushed_in.length && !dead ? (
        <p className="caution bare">
          Pushed in, it starts what it feeds past every safety. Read its contacts by ohms, locked out, where that will do; else insulated tool, hands clear,
          seconds only.
        </p>
      ) : null}
      {said.map(({ field, id, words }) => (
        <button
          key={`${field} ${id}`}
          type="button"
          className="plain-button"
          aria-label={`${words}: put back`}
          onClick={() => dispatch({ do: 'let go', field, id })}
        >
          {words} ✕
        </button>
      ))}
      {isProbes(setup.mode)
        ? out.map((row) => (
            <div key={row.part} className="own-leads" role="group" aria-label={`Own leads of the ${row.name}`}>
              {[...Object.entries(row.leads), ['Frame', GROUND] as const].map(([lane, point]) => (
                <button
                  key={point}
                  type="button"
                  className="plain-button"
                  aria-pressed={setup.black === point || setup.red === point}
                  onClick={() => dispatch({ do: 'touch', point })}
                >
                  {lane}
                </button>
              ))}
            </div>
          ))
        : null}
      <Suspense fallback={<span className="quiet">By hand …</span>}>
        <HandsMenu
          label={said.length ? 'More by hand …' : 'By hand: pushed in, lifted, taken out …'}
          groups={groups}
          hold={(field, id) => dispatch({ do: 'hold', field, id })}
        />
      </Suspense>
    </div>
  )
}

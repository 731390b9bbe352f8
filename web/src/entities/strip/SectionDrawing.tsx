import { type KeyboardEvent, useState } from 'react'

import type { LaneState, ShownLook, StripSection } from '../../api/schema.gen'
import { GROUND } from '../../shared/point'
import { isRing, type Lanes, neighbour, pointY, ROW_HEIGHT, rowTop, sectionHeight, type Stretch, stretchesOf, type Target, targetsOf } from './geometry'
import type { SuspectPlace } from './places'
import { type Setup, type SetupAction, touchWords } from './setup'

type Props = {
  section: StripSection
  lanes: Lanes
  known: LaneState | null
  byHand: readonly string[]
  suspicions: readonly SuspectPlace[]
  setup: Setup
  panelShut: boolean
  looks: readonly ShownLook[]
  dispatch: (action: SetupAction) => void
}

/** A thumb's reach never goes over into the next lane. */
const WIDEST_REACH = 52
/** Where a load's sign stands beside its first conductor, so that it hides no conductor it passes. */
const REACH = 22

/** Lanes, parts, suspicions and touchable points of one section. */
export function SectionDrawing(props: Props) {
  const { section, lanes, known, byHand, suspicions, setup, looks } = props
  const x = (lane: string) => lanes.at[lane] ?? 0
  const shown = suspicions.flatMap(({ chief, probability }) => {
    const i = section.rows.findIndex((row) => row.part === chief.part)
    const row = section.rows[i]
    if (!row) return []
    const mine = Object.keys({ ...row.points, ...row.comes_from }).filter((lane) => lane !== GROUND)
    const named = (chief.leg ?? '').split('-').filter((lane) => lane in lanes.at)
    return [{ key: chief.key, i, xs: (named.length ? named : mine).map(x), probability }]
  })
  return (
    <svg className="strip-lanes" width={lanes.width} height={sectionHeight(section)} role="group" aria-label="Points for the probes">
      {section.lanes.map((lane) => (
        <text key={lane} x={x(lane)} y={46} className="lane-name">
          {lane}
        </text>
      ))}
      <line x1={x(GROUND)} x2={x(GROUND)} y1={rowTop(0)} y2={rowTop(section.rows.length)} className="lane-ground" />
      {shown.flatMap(({ key, xs, i, probability }) =>
        xs.map((at) => (
          <line key={key + at} x1={at} x2={at} y1={rowTop(i) + 4} y2={pointY(i) - 4} className="glow" style={{ opacity: 0.25 + 0.75 * probability }} />
        )),
      )}
      {stretchesOf(section, setup.open, known, byHand)
        .filter(({ lane }) => lane !== GROUND)
        .map((stretch) => (
          <LaneStretch key={stretch.key} stretch={stretch} x={x(stretch.lane)} fromX={x(stretch.fromLane)} />
        ))}
      {section.rows.map((row, i) =>
        row.role === 'shunt' ? (
          <Shunt
            key={row.part}
            xs={Object.keys(row.comes_from)
              .filter((lane) => lane in lanes.at)
              .map(x)}
            y={rowTop(i) + ROW_HEIGHT / 2}
            idle={row.idle}
          />
        ) : null,
      )}
      {shown.map(({ key, xs, i, probability }) => (
        <Badge key={key} x={Math.max(...xs) + 28} y={rowTop(i) + ROW_HEIGHT / 2} probability={probability} />
      ))}
      <LookMarks section={section} looks={looks} x={x} />
      <Touchables {...props} />
    </svg>
  )
}

function LaneStretch({ stretch, x, fromX }: { stretch: Stretch; x: number; fromX: number }) {
  const { fromY, top, bottom, shift, open } = stretch
  const ahead = `lane ${stretch.ahead}`
  const rail = shift > 0 ? x - shift : fromX
  const bend = shift > 0 ? 6 : 0
  return (
    <g>
      {top > fromY || fromX !== x ? (
        <polyline points={`${fromX},${fromY} ${rail},${fromY + bend} ${rail},${top - bend} ${x},${top}`} className={`${ahead} ${shift > 0 ? 'rail' : ''}`} />
      ) : null}
      {open ? (
        <>
          <line x1={x} x2={x} y1={top} y2={top + 8} className={ahead} />
          <line x1={x + 13} x2={x - 1} y1={top + 15} y2={bottom - 9} className="lane-blade" />
          <line x1={x} x2={x} y1={bottom - 8} y2={bottom} className={`lane ${stretch.standing}`} />
        </>
      ) : (
        <line x1={x} x2={x} y1={top} y2={bottom} className={`lane ${stretch.standing}`} />
      )}
    </g>
  )
}

function Shunt({ xs, y, idle }: { xs: number[]; y: number; idle: boolean }) {
  const [left = 0, next = 0] = [...xs].sort((a, b) => a - b)
  const right = Math.max(...xs)
  return (
    <g className={idle ? 'shunt idle' : 'shunt'}>
      <line x1={left} x2={right} y1={y} y2={y} />
      {xs.map((x) => (
        <circle key={x} cx={x} cy={y} r={idle ? 4 : 6} />
      ))}
      <rect x={left + Math.min((next - left) / 2, REACH) - 11} y={y - 8} width={22} height={16} rx={3} />
    </g>
  )
}

function Badge({ x, y, probability }: { x: number; y: number; probability: number }) {
  return (
    <g className="suspicion" aria-hidden="true">
      <rect x={x - 17} y={y - 11} width={34} height={22} rx={11} />
      <text x={x} y={y + 5}>
        {Math.round(probability * 100)}%
      </text>
    </g>
  )
}

/** What was seen, where it was: a flag beside the conductor, or before the row where no one conductor was named. */
function LookMarks({ section, looks, x }: { section: StripSection; looks: readonly ShownLook[]; x: (lane: string) => number }) {
  return looks.map(({ look, words }) => {
    const i = section.rows.findIndex((row) => row.part === look.part)
    const row = section.rows[i]
    if (!row || !look.seen) return null
    const lane = look.leg ?? Object.keys({ ...row.points, ...row.comes_from }).find((one) => one !== GROUND) ?? ''
    const at = x(lane) - 17
    const y = rowTop(i) + ROW_HEIGHT / 2
    return (
      <g key={look.id} className="seen" role="img" aria-label={words}>
        <path d={`M${at},${y - 10} l8,16 h-16 z`} />
        <text x={at} y={y + 4}>
          !
        </text>
      </g>
    )
  })
}

/** Dots for probes, or rings for the clamp; one tab stop, arrow keys move among them. */
function Touchables({ section, setup, panelShut, lanes, known, dispatch }: Props) {
  const targets = targetsOf(section, setup.mode)
  const [chosen, setChosen] = useState(targets.length - 1)
  const at = Math.min(Math.max(chosen, 0), targets.length - 1)
  const probed = section.rows.findIndex((row) => Object.values(row.points).some((point) => point === setup.black || point === setup.red))
  const groundRow = probed < 0 ? (targets.at(-1)?.index ?? 0) : probed

  const move = (event: KeyboardEvent<SVGGElement>) => {
    if (!event.key.startsWith('Arrow')) return
    event.preventDefault()
    const next = neighbour(targets, section.lanes, at, event.key)
    setChosen(next)
    event.currentTarget.querySelector<SVGGElement>(`[data-at="${next}"]`)?.focus()
  }

  return (
    <g onKeyDown={move}>
      {targets.map((target, i) => (
        <Touchable
          key={target.key}
          {...{ target, setup, panelShut, dispatch }}
          number={i}
          x={lanes.at[target.lane] ?? 0}
          reach={Math.min(lanes.spacing, WIDEST_REACH)}
          isStop={i === at}
          groundRow={groundRow}
          volts={known?.points[target.point]?.volts}
          onFocus={() => setChosen(i)}
        />
      ))}
    </g>
  )
}

type TouchableProps = {
  target: Target
  number: number
  x: number
  reach: number
  setup: Setup
  panelShut: boolean
  isStop: boolean
  groundRow: number
  volts: number | undefined
  dispatch: Props['dispatch']
  onFocus: () => void
}

function Touchable({ target, number, x, reach, setup, panelShut, isStop, groundRow, volts, dispatch, onFocus }: TouchableProps) {
  const { row, index, lane, point, way } = target
  const ring = isRing(way)
  const clamp = way === 'jaws'
  const ground = lane === GROUND
  const away = row.carrier_of !== null && setup.open.includes(row.carrier_of) && !ground
  const usable = !away && !(panelShut && row.zone === 'panel') && (!clamp || row.clampable)
  const pointed = setup.picked?.part === row.part && (setup.picked.leg === lane || way === 'part')
  const clamped = (clamp && setup.clamp?.part === row.part && [setup.clamp.leg, ...(setup.clamp.also ?? [])].includes(lane)) || (ring && !clamp && pointed)
  const clipped = (way === 'legs' && setup.picked?.part === row.part) || (way === 'point' && pointed)
  const here = !ground || index === groundRow
  const probe = way !== 'probe' || !here ? '' : point === setup.black ? 'black' : point === setup.red ? 'red' : ''
  const act = () => dispatch(actOf(target))
  const expected = way === 'probe' && !ground && volts !== undefined ? `, ${volts} V to ground expected` : ''
  const say =
    way === 'probe'
      ? ground
        ? `Ground, at ${row.point_name}`
        : `${lane} at ${row.point_name}${expected}`
      : way === 'legs'
        ? `${touchWords(setup.mode)} ${row.point_name}, ${lane} among the three`
        : `${touchWords(setup.mode)} ${way === 'part' ? '' : `${lane} at `}the ${row.name}`
  const y = ring ? rowTop(index) + ROW_HEIGHT / 2 : pointY(index)
  return (
    <g
      data-at={number}
      data-point={ground ? `G@${row.part}` : point}
      role="button"
      aria-label={say + (probe ? `, ${probe} probe here` : clipped && way === 'legs' ? `, clip ${lane.replace('L', '')} here` : '')}
      aria-pressed={probe !== '' || clamped || clipped}
      aria-disabled={!usable}
      tabIndex={isStop ? 0 : -1}
      className={`touch ${usable ? '' : 'unusable'} ${probe} ${clamped ? 'clamped' : ''} ${clipped ? 'red' : ''}`}
      onFocus={onFocus}
      onClick={usable ? act : undefined}
      onKeyDown={(event) => {
        if (usable && (event.key === 'Enter' || event.key === ' ')) {
          event.preventDefault()
          act()
        }
      }}
    >
      <rect x={x - reach / 2} y={y - ROW_HEIGHT / 2} width={reach} height={ROW_HEIGHT} className="reach" />
      {ring ? (
        usable && <ellipse cx={x} cy={y} rx={Math.min(16, reach / 2 - 1)} ry={11} className="ring" />
      ) : (
        <circle cx={x} cy={y} r={probe || clipped ? 14 : ground ? 5 : 8} className={ground ? 'dot ground' : 'dot'} />
      )}
      {probe ? (
        <text x={x} y={y + 5} className="probe-sign">
          {probe === 'black' ? 'B' : 'R'}
        </text>
      ) : null}
      {clipped ? (
        <text x={x} y={y + 5} className="probe-sign">
          {way === 'point' ? 'T' : lane.replace('L', '')}
        </text>
      ) : null}
    </g>
  )
}

function actOf({ way, lane, row, point }: Target): SetupAction {
  switch (way) {
    case 'jaws':
      return { do: 'clamp', leg: lane, part: row.part }
    case 'probe':
      return { do: 'touch', point }
    case 'point':
    case 'pole':
    case 'look':
      return { do: 'pick', picked: { part: row.part, leg: lane } }
    case 'legs':
    case 'part':
      return { do: 'pick', picked: { part: row.part, leg: null } }
  }
}

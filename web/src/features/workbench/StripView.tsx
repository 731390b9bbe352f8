import { type KeyboardEvent, useState } from 'react'

import type { Circuit, Strip, StripRow, Suspect } from '../../api/schema.gen'
import { HEAD_HEIGHT, lanesOf, pointY, ROW_HEIGHT, rowTop, stretchesOf, stripHeight, touchRows } from './geometry'
import { placesOf } from './places'
import { GROUND, type Setup, type SetupAction } from './setup'

type Props = {
  circuit: Circuit
  strip: Strip
  setup: Setup
  suspects: readonly Suspect[]
  panelShut: boolean
  laneSpacing: number
  dispatch: (action: SetupAction) => void
}

const SHOWN_SUSPICION = 0.05

/** The circuit as a strip: rows of parts, a lane for each leg, points to touch, switches to flip. */
export function StripView(props: Props) {
  const { circuit, strip, setup, suspects, panelShut, laneSpacing, dispatch } = props
  const lanes = lanesOf(strip.legs, laneSpacing)
  const suspicions = placesOf(suspects)
    .filter((place) => place.chief.part && place.probability >= SHOWN_SUSPICION)
    .map(({ chief, probability }) => ({
      key: chief.key,
      xs: chief.leg ? [lanes.legs[chief.leg] ?? 0] : Object.values(lanes.legs),
      i: strip.rows.findIndex((row) => row.part === chief.part),
      probability,
    }))
  return (
    <section className="strip" aria-label="Circuit strip, source at the top" style={{ ['--lanes' as string]: `${lanes.width}px` }}>
      <div className="strip-head" style={{ height: HEAD_HEIGHT }}>
        <span>source</span>
      </div>
      {strip.rows.map((row, i) => (
        <div key={row.part} className={`strip-row ${row.zone === 'panel' && panelShut ? 'shut' : ''}`} style={{ height: ROW_HEIGHT }}>
          <div className="strip-label">
            <strong>{row.name}</strong>
            <span className="quiet">{[row.device, row.detail].filter(Boolean).join(' · ') || row.point_name}</span>
          </div>
          <SwitchOf row={row} isFirst={strip.rows.findIndex((one) => one.switch === row.switch) === i} circuit={circuit} setup={setup} rows={strip.rows} dispatch={dispatch} />
        </div>
      ))}
      <svg className="strip-lanes" width={lanes.width} height={stripHeight(strip)} role="group" aria-label="Points for the probes">
        <LaneHeads legs={lanes.legs} ground={lanes.ground} />
        <line x1={lanes.ground} x2={lanes.ground} y1={HEAD_HEIGHT} y2={rowTop(strip.rows.length)} className="lane-ground" />
        {suspicions.flatMap(({ key, xs, i, probability }) =>
          xs.map((x) => <line key={key + x} x1={x} x2={x} y1={rowTop(i) + 4} y2={pointY(i) - 4} className="glow" style={{ opacity: 0.25 + 0.75 * probability }} />),
        )}
        {stretchesOf(strip, setup.open).map(({ leg, top, bottom, state }) => {
          const x = lanes.legs[leg] ?? 0
          if (state !== 'gap') return <line key={leg + top} x1={x} x2={x} y1={top} y2={bottom} className={`lane ${state}`} />
          return (
            <g key={leg + top}>
              <line x1={x} x2={x} y1={top} y2={top + 8} className="lane cut" />
              <line x1={x - 13} x2={x + 1} y1={top + 15} y2={bottom - 9} className="lane-blade" />
            </g>
          )
        })}
        {strip.rows.map((row, i) =>
          row.role === 'shunt' ? <Shunt key={row.part} left={lanes.legs[strip.legs[0] ?? ''] ?? 0} right={lanes.legs[strip.legs[1] ?? ''] ?? 0} y={rowTop(i) + ROW_HEIGHT / 2} idle={i < strip.rows.length - 1} /> : null,
        )}
        {suspicions.map(({ key, xs, i, probability }) => (
          <Badge key={key} x={Math.max(...xs) + 28} y={rowTop(i) + ROW_HEIGHT / 2} probability={probability} />
        ))}
        <Touchables {...props} lanes={lanes} />
      </svg>
    </section>
  )
}

function LaneHeads({ legs, ground }: { legs: Record<string, number>; ground: number }) {
  return (
    <>
      {Object.entries({ ...legs, G: ground }).map(([name, x]) => (
        <text key={name} x={x} y={25} className="lane-name">
          {name}
        </text>
      ))}
    </>
  )
}

function Shunt({ left, right, y, idle }: { left: number; right: number; y: number; idle: boolean }) {
  return (
    <g className={idle ? 'shunt idle' : 'shunt'}>
      <line x1={left} x2={right} y1={y} y2={y} />
      <rect x={(left + right) / 2 - 13} y={y - 8} width={26} height={16} rx={3} />
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

function SwitchOf(props: { row: StripRow; isFirst: boolean; circuit: Circuit; setup: Setup; rows: readonly StripRow[]; dispatch: Props['dispatch'] }) {
  const { row, isFirst, circuit, setup, rows, dispatch } = props
  const known = circuit.switches.find((one) => one.id === row.switch)
  if (!known || !isFirst) return <span />
  const isOpen = setup.open.includes(known.id)
  return (
    <button
      type="button"
      role="switch"
      aria-checked={!isOpen}
      aria-label={`${known.name}: ${isOpen ? known.open : known.closed}`}
      className={`flip ${isOpen ? 'is-open' : ''}`}
      onClick={() => dispatch({ do: 'flip', switch: known.id, rows })}
    >
      <i />
      {isOpen ? known.open : known.closed}
    </button>
  )
}

/** Dots for probes, or rings for the clamp; one tab stop, arrow keys move among them. */
function Touchables({ strip, setup, panelShut, lanes, dispatch }: Props & { lanes: ReturnType<typeof lanesOf> }) {
  const rows = touchRows(strip)
  const columns = [...strip.legs, GROUND]
  const [at, setAt] = useState({ row: rows.length - 2, column: 0 })
  const amps = setup.mode === 'amps'
  const groundRow = rows.findIndex(({ row }) => Object.values(row.points).some((p) => p === setup.black || p === setup.red))

  const move = (event: KeyboardEvent<SVGSVGElement | SVGGElement>) => {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key]
    if (!step) return
    event.preventDefault()
    const next = {
      row: Math.min(Math.max(at.row + (step[0] ?? 0), 0), rows.length - 1),
      column: Math.min(Math.max(at.column + (step[1] ?? 0), 0), columns.length - 1),
    }
    setAt(next)
    event.currentTarget.querySelector<SVGGElement>(`[data-at="${next.row},${next.column}"]`)?.focus()
  }

  return (
    <g onKeyDown={move}>
      {rows.flatMap(({ row, index }, r) =>
        columns.map((leg, c) => {
          const x = leg === GROUND ? lanes.ground : (lanes.legs[leg] ?? 0)
          const point = leg === GROUND ? GROUND : (row.points[leg] ?? '')
          const away = row.carrier_of !== null && setup.open.includes(row.carrier_of) && leg !== GROUND
          const shut = panelShut && row.zone === 'panel'
          const usable = !away && !shut && (!amps || (row.clampable && leg !== GROUND))
          const clamped = amps && setup.clamp?.leg === leg && setup.clamp.part === row.part
          const here = leg !== GROUND || r === (groundRow < 0 ? rows.length - 2 : groundRow)
          const probe = amps || !here ? '' : point === setup.black ? 'black' : point === setup.red ? 'red' : ''
          const act = () => dispatch(amps ? { do: 'clamp', leg, part: row.part } : { do: 'touch', point })
          const say = amps ? `Clamp on ${leg} at the ${row.name}` : leg === GROUND ? `Ground, at ${row.point_name}` : `${leg} at ${row.point_name}`
          const y = amps ? rowTop(index) + ROW_HEIGHT / 2 : pointY(index)
          return (
            <g
              key={`${row.part}${leg}`}
              data-at={`${r},${c}`}
              data-point={leg === GROUND ? `G@${row.part}` : point}
              role="button"
              aria-label={say + (probe ? `, ${probe} probe here` : '')}
              aria-pressed={probe !== '' || clamped}
              aria-disabled={!usable}
              tabIndex={at.row === r && at.column === c ? 0 : -1}
              className={`touch ${usable ? '' : 'unusable'} ${probe} ${clamped ? 'clamped' : ''}`}
              onFocus={() => setAt({ row: r, column: c })}
              onClick={usable ? act : undefined}
              onKeyDown={(event) => {
                if (usable && (event.key === 'Enter' || event.key === ' ')) {
                  event.preventDefault()
                  act()
                }
              }}
            >
              <rect x={x - 26} y={y - ROW_HEIGHT / 2} width={52} height={ROW_HEIGHT} className="reach" />
              {amps ? usable && <ellipse cx={x} cy={y} rx={16} ry={11} className="ring" /> : <circle cx={x} cy={y} r={probe ? 14 : leg === GROUND ? 5 : 8} className={leg === GROUND ? 'dot ground' : 'dot'} />}
              {probe ? (
                <text x={x} y={y + 5} className="probe-sign">
                  {probe === 'black' ? 'B' : 'R'}
                </text>
              ) : null}
            </g>
          )
        }),
      )}
    </g>
  )
}

import type { Circuit, Timed } from '../../api/schema.gen'
import { useWide } from '../../shared/useWide'
import { barsOf, seconds } from './timing'

type Props = { circuit: Circuit; told: Timed; leg: string; seen: readonly { at_s: number; amps: number }[]; until: number }

const ROW = 30
const AMPS_HEIGHT = 110

/** Contacts and loads as bars over the seconds, and the amps they make at the clamp below. */
export function TimeChart({ circuit, told, leg, seen, until }: Props) {
  const wide = useWide()
  const [width, names] = wide ? [720, 150] : [358, 108]
  const x = (at: number) => names + ((width - names - 26) * Math.min(at, until)) / until
  const contacts = circuit.switches.filter((one) => one.coil && told.clicks.some((click) => click.switch === one.id))
  const loads = circuit.parts.filter((part) => told.moments.some((one) => one.running.includes(part.id)))
  const rows = [
    ...contacts.map((one) => ({
      key: one.id,
      name: one.name,
      bars: barsOf(told.moments, (moment) => moment.pulled_in.includes(one.id)),
      clicks: told.clicks.filter((click) => click.switch === one.id),
      load: false,
    })),
    ...loads.map((one) => ({ key: one.id, name: one.name, bars: barsOf(told.moments, (moment) => moment.running.includes(one.id)), clicks: [], load: true })),
  ]
  const top = rows.length * ROW + 14
  const amps = told.moments.map((one) => ({ from: one.from_s, to: one.to_s, amps: one.amps[leg] ?? 0 }))
  const most = Math.max(1, ...amps.map((one) => one.amps), ...seen.map((one) => one.amps))
  const y = (value: number) => top + AMPS_HEIGHT - 16 - ((AMPS_HEIGHT - 26) * value) / most
  const stair = (list: readonly { from: number; to: number; amps: number }[]) =>
    list.map((one) => `${x(one.from)},${y(one.amps)} ${x(one.to)},${y(one.amps)}`).join(' ')
  const noted = seen.map((one, i) => ({ from: one.at_s, to: seen[i + 1]?.at_s ?? one.at_s, amps: one.amps }))
  const every = until > 400 ? 120 : until > 150 ? 60 : 15
  return (
    <svg className="time-chart" viewBox={`0 0 ${width} ${top + AMPS_HEIGHT}`} role="img" aria-label="What runs when, and the amps it makes">
      {Array.from({ length: Math.floor(until / every) + 1 }, (_, i) => i * every).map((at) => (
        <g key={at}>
          <line x1={x(at)} x2={x(at)} y1={4} y2={top + AMPS_HEIGHT - 14} className="tick" />
          <text x={x(at)} y={top + AMPS_HEIGHT - 2} className="tick-words">
            {at < 120 ? `${at} s` : `${at / 60} min`}
          </text>
        </g>
      ))}
      {rows.map((row, i) => (
        <g key={row.key}>
          <text x={0} y={i * ROW + 24} className="row-name">
            {row.name.length > (wide ? 22 : 15) ? `${row.name.slice(0, wide ? 21 : 14)}…` : row.name}
          </text>
          {row.clicks.map((click) => (
            <rect
              key={`${click.pulls_in}${click.at_s}`}
              x={x(click.soonest_s)}
              y={i * ROW + 8}
              width={Math.max(1, x(click.latest_s) - x(click.soonest_s))}
              height={22}
              className="window"
            />
          ))}
          {row.bars.map((bar) => (
            <rect
              key={bar.from}
              x={x(bar.from)}
              y={i * ROW + 12}
              width={Math.max(1, x(bar.to) - x(bar.from))}
              height={14}
              rx={2}
              className={row.load ? 'runs' : 'in'}
            >
              <title>{`${row.name}: ${seconds(bar.from)} to ${seconds(bar.to)}`}</title>
            </rect>
          ))}
        </g>
      ))}
      <text x={0} y={top + 20} className="row-name">
        Amps, {leg}
      </text>
      <text x={0} y={top + 38} className="tick-words left">
        0 to {most.toFixed(most < 10 ? 1 : 0)} A
      </text>
      <polyline points={stair(amps)} className="due" />
      {noted.length ? <polyline points={stair(noted)} className="noted" /> : null}
    </svg>
  )
}

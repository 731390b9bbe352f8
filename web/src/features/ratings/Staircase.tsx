import type { CallRatings, Circuit } from '../../api/schema.gen'
import { shown } from '../../shared/units'

type Tread = CallRatings['treads'][number]

const volts = (value: number) => (Math.abs(value) < 1 ? `${shown(Number((value * 1000).toPrecision(3)))} mV` : `${shown(Number(value.toPrecision(3)))} V`)

/** Volts that each part should lose at the amps that flowed, and what it was read to lose. */
export function Staircase({ circuit, treads }: { circuit: Circuit; treads: readonly Tread[] }) {
  const name = (id: string) => circuit.parts.find((one) => one.id === id)?.name ?? id
  const read = treads.filter((one) => one.measured_volts !== null && one.measured_volts !== undefined)
  return (
    <details className="standing" open={read.length > 0}>
      <summary>
        Volts lost, part by part <span className="num">{read.length}</span>
      </summary>
      {read.length === 0 ? (
        <p className="quiet">Read volts across a closed part while current flows, and amps beside it: what it should lose stands here beside what it does.</p>
      ) : null}
      <ul className="treads">
        {read.map((one) => (
          <li key={one.lane + one.parts.join()} className={one.standing}>
            <p>
              <Where tread={one} name={name} /> <b className="num">loses {volts(one.measured_volts ?? 0)}</b>, should {volts(one.expected_volts)} at {amps(one)}
            </p>
            <p>{tooMuch(one)}</p>
            <p>{mates(one)}</p>
          </li>
        ))}
      </ul>
      <details>
        <summary>What the others should lose</summary>
        <ul className="treads">
          {treads
            .filter((one) => !read.includes(one))
            .map((one) => (
              <li key={one.lane + one.parts.join()}>
                <Where tread={one} name={name} /> <span className="num">{volts(one.expected_volts)}</span> <span className="quiet">at {amps(one)}</span>
              </li>
            ))}
        </ul>
      </details>
    </details>
  )
}

function Where({ tread, name }: { tread: Tread; name: (id: string) => string }) {
  const { parts, lane } = tread
  const words = parts.length > 2 ? `${name(parts[0] ?? '')} to ${name(parts.at(-1) ?? '')}` : parts.map(name).join(', ')
  return (
    <>
      <span className="part-lanes num">{lane}</span> {words}
    </>
  )
}

const amps = ({ amps, amps_by }: Tread) =>
  `${shown(Number(amps.toPrecision(3)))} A${amps_by === 'clamp' ? '' : amps_by === 'plates' ? ' by the plates' : ' of another leg'}`

function tooMuch(one: Tread): string {
  if (one.standing !== 'high' || one.excess_volts === null || one.excess_volts === undefined) return ''
  const ohm = one.excess_ohm ? `, ${shown(Number((one.excess_ohm * 1000).toPrecision(3)))} mΩ` : ''
  const without = one.load_volts_without ? `; the load would have ${shown(one.load_volts_without)} V` : ''
  return `${volts(one.excess_volts)} too much${ohm}, ${shown(Number((one.excess_watts ?? 0).toPrecision(3)))} W burnt there${without}.`
}

function mates(one: Tread): string {
  const parts = []
  const over = one.over_mate_percent
  if (over && over > 999) parts.push(`${Math.round(1 + over / 100)} times its lowest mate; ${shown(one.mate_most_percent ?? 50)} % over it is the most`)
  else if (over) parts.push(`${Math.round(over)} % over its lowest mate; ${shown(one.mate_most_percent ?? 50)} % is the most`)
  if (one.over_mate_f !== null && one.over_mate_f !== undefined) parts.push(`${shown(one.over_mate_f)} °F hotter. ${one.infrared}`)
  return parts.join('; ')
}

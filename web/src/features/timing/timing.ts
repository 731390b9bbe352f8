import type { CallLoadTests, Circuit, Strip, Timed, TimingAsked } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'

export type Asked = TimingAsked
export type Step = Asked['steps'][number]
type Report = NonNullable<CallLoadTests['tests'][number]['report']>

const FIVE_MINUTES_S = 300

/** Switches that a hand or a thermostat moves; those that call, first of all what is dropped to end a call. */
export function byHand(circuit: Circuit, strip: Strip) {
  const switches = circuit.switches.filter((one) => !one.coil)
  const calls = switches.filter((one) => rowsOf(strip).some((row) => row.switch === one.id && row.calls))
  return { switches, calls: calls.length ? calls : switches.slice(-1) }
}

/** A call of five minutes. */
export function usualSteps(circuit: Circuit, strip: Strip): Step[] {
  return [
    { at_s: 0, open_switches: [] },
    { at_s: FIVE_MINUTES_S, open_switches: byHand(circuit, strip).calls.map((one) => one.id) },
  ]
}

/** Seconds and amps as noted, a pair a line, as “42 21.5”; null where a line is no such pair. */
export function seenFrom(text: string): Asked['seen'] | null {
  const lines = text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
  const seen = lines.map((line) => line.split(/[\s,;]+/).map(Number)).map(([at_s = NaN, amps = NaN]) => ({ at_s, amps }))
  return seen.every(({ at_s, amps }) => at_s >= 0 && amps >= 0) ? seen : null
}

/** The steps of a logged load test as levels from nothing on. */
export function seenIn(report: Report): NonNullable<Asked['seen']> {
  let amps = 0
  const later = report.stages.map((one) => {
    amps = Math.max(0, amps + one.amps)
    return { at_s: one.at_s, amps: Number(amps.toFixed(2)) }
  })
  return [{ at_s: 0, amps: 0 }, ...later.filter((one) => one.at_s > 0)]
}

export type Bar = { from: number; to: number }

/** When something was on, as stretches that follow each other. */
export function barsOf(moments: Timed['moments'], isOn: (moment: Timed['moments'][number]) => boolean): Bar[] {
  const bars: Bar[] = []
  for (const moment of moments) {
    if (!isOn(moment)) continue
    const last = bars.at(-1)
    if (last && Math.abs(last.to - moment.from_s) < 0.06) last.to = moment.to_s
    else bars.push({ from: moment.from_s, to: moment.to_s })
  }
  return bars
}

/** Seconds as they are said: 42 s, 5 min, 5 min 15 s. */
export function seconds(value: number): string {
  const whole = Math.round(value)
  if (whole < 120) return `${value < 10 && value % 1 ? value.toFixed(1) : whole} s`
  const rest = whole % 60
  return `${Math.floor(whole / 60)} min${rest ? ` ${rest} s` : ''}`
}

import type { CallLoadTests, CsvGuess } from '../../api/schema.gen'
import { NumberField, PickField } from '../../shared/fields'

type Mapping = CsvGuess['mapping']
type Channel = CallLoadTests['usual'][number]
type Props = { name: string; guess: CsvGuess; usual: readonly Channel[]; set: (mapping: Mapping) => void }

const TIMES: readonly (readonly [NonNullable<Mapping['time_format']>, string])[] = [
  ['seconds', 'seconds'],
  ['milliseconds', 'milliseconds'],
  ['minutes', 'minutes'],
  ['hours', 'hours'],
  ['days', 'days'],
  ['clock', '14:03:07'],
  ['iso', '2026-07-14 14:03:07'],
  ['month_first', '7/14/2026 14:03:07'],
  ['day_first', '14/7/2026 14:03:07'],
  ['none', 'no times: rows at intervals'],
]
const UNITS: readonly (readonly [string, number, string])[] = [
  ['V', 1, 'volts'],
  ['mV', 0.001, 'volts'],
  ['kV', 1000, 'volts'],
  ['A', 1, 'amps'],
  ['mA', 0.001, 'amps'],
]
const LEFT_OUT = 'out'
const TIME = 'time'
const DAY = 'day'

const keyOf = (one: Channel) => `${one.kind} ${one.lanes.join(' ')}`
const nameOf = (one: Channel) => `${one.kind === 'volts' ? 'Volts' : 'Amps'} ${one.lanes.join(' to ')}`

/** What each column of a file is: recognized, and changed where that is wrong. */
export function ColumnsView({ name, guess, usual, set }: Props) {
  const { mapping, names, rows } = guess
  const columns = mapping.columns ?? []
  const known = [...usual, ...columns.map((one) => one.channel)].filter((one, i, all) => all.findIndex((two) => keyOf(two) === keyOf(one)) === i)
  const uses: (readonly [string, string])[] = [[LEFT_OUT, 'left out'], [TIME, 'time'], [DAY, 'date'], ...known.map((one) => [keyOf(one), nameOf(one)] as const)]
  const chosenFor = (i: number) => {
    if (mapping.time_column === i) return TIME
    if (mapping.date_column === i) return DAY
    const use = columns.find((one) => one.column === i)
    return use ? keyOf(use.channel) : LEFT_OUT
  }
  const choose = (i: number, use: string) => {
    const others = columns.filter((one) => one.column !== i && keyOf(one.channel) !== use)
    const channel = known.find((one) => keyOf(one) === use)
    set({
      ...mapping,
      time_column: use === TIME ? i : mapping.time_column === i ? null : (mapping.time_column ?? null),
      date_column: use === DAY ? i : mapping.date_column === i ? null : (mapping.date_column ?? null),
      columns: channel ? [...others, { column: i, channel, factor: 1 }] : others,
    })
  }
  const setFactor = (i: number, factor: number) => set({ ...mapping, columns: columns.map((one) => (one.column === i ? { ...one, factor } : one)) })
  return (
    <section aria-label={`Columns of ${name}`} className="columns-view">
      <h3>{name}: is this right?</h3>
      <div className="load-form">
        <PickField label="Times are" value={mapping.time_format ?? 'seconds'} options={TIMES} set={(time_format) => set({ ...mapping, time_format })} />
        {mapping.time_format === 'none' || mapping.time_column === null ? (
          <NumberField label="Between rows" unit="s" value={mapping.interval_s ?? 1} set={(interval_s) => set({ ...mapping, interval_s: interval_s ?? 1 })} />
        ) : null}
      </div>
      <ul className="column-list">
        {names.map((column, i) => {
          const use = columns.find((one) => one.column === i)
          return (
            <li key={i}>
              <span>
                <b>{column || `column ${i + 1}`}</b>{' '}
                <span className="quiet num">
                  {rows
                    .slice(0, 3)
                    .map((row) => row[i] ?? '')
                    .join(' · ')}
                </span>
              </span>
              <PickField label={`Column ${i + 1} is`} value={chosenFor(i)} options={uses} set={(chosen) => choose(i, chosen)} />
              {use ? (
                <PickField
                  label="in"
                  value={use.factor ?? 1}
                  options={UNITS.filter(([, , kind]) => kind === use.channel.kind).map(([unit, factor]) => [factor, unit] as const)}
                  set={(factor) => setFactor(i, factor)}
                />
              ) : (
                <span />
              )}
            </li>
          )
        })}
      </ul>
    </section>
  )
}

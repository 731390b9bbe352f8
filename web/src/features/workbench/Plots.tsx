import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'

import { course as courseQuery } from '../../api/queries'
import type { Course, Workbench } from '../../api/schema.gen'
import { PickField } from '../../shared/fields'
import { Themed } from '../../shared/Themed'
import { profileOf, statesOf } from './profile'

/** Told apart by color and by dash, so that neither alone carries it. */
const LINES = [
  { stroke: 'var(--plot-1)', strokeDasharray: '' },
  { stroke: 'var(--plot-2)', strokeDasharray: '8 4' },
  { stroke: 'var(--plot-3)', strokeDasharray: '2 4' },
  { stroke: 'var(--plot-4)', strokeDasharray: '10 4 2 4' },
  { stroke: 'var(--plot-5)', strokeDasharray: '4 2' },
]
const AXIS = { stroke: 'var(--soft)', tick: { fill: 'var(--ink)', fontSize: 14 } }
const TIP = { contentStyle: { background: 'var(--card)', border: '1px solid var(--edge)', color: 'var(--ink)' } }

/** The call's two plots: volts along the circuit, and the suspects from reading to reading. */
export default function Plots({ data }: { data: Workbench }) {
  return (
    <>
      <VoltageProfile data={data} />
      {data.readings.length > 1 ? <SuspectCourse data={data} /> : null}
    </>
  )
}

function VoltageProfile({ data }: { data: Workbench }) {
  const states = statesOf(data)
  const [chosen, setChosen] = useState(0)
  const state = states[chosen] ?? states[0]
  if (!state) return null
  const { lanes, places, hasRead } = profileOf(data, state.open)
  return (
    <figure className="plot" aria-label="Voltage profile">
      <figcaption>
        <b>Volts to ground along the circuit</b>
        <Themed>
          <PickField label="State of the switches" value={chosen} options={states.map((one, i) => [i, one.words] as const)} set={setChosen} />
        </Themed>
      </figcaption>
      <ResponsiveContainer width="100%" height={300}>
        <LineChart data={places} margin={{ top: 8, right: 16, bottom: 4, left: 0 }} accessibilityLayer>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="name" {...AXIS} interval="preserveStartEnd" tickFormatter={(name: string) => (name.length > 16 ? `${name.slice(0, 15)}…` : name)} />
          <YAxis {...AXIS} unit=" V" width={64} />
          <Tooltip {...TIP} formatter={(value) => `${Math.round(Number(value) * 10) / 10} V`} />
          {lanes.map((lane, i) => (
            <Line
              key={lane}
              dataKey={lane}
              name={`${lane} expected`}
              {...(LINES[i] ?? LINES[0])}
              strokeWidth={3}
              dot={false}
              type="stepAfter"
              isAnimationActive={false}
              connectNulls
            />
          ))}
          {hasRead
            ? lanes.map((lane, i) => (
                <Line
                  key={`${lane} read`}
                  dataKey={`${lane} read`}
                  name={`${lane} read`}
                  stroke={LINES[i]?.stroke}
                  strokeWidth={0}
                  dot={{ r: 6, strokeWidth: 2, fill: 'var(--card)' }}
                  legendType="circle"
                  isAnimationActive={false}
                />
              ))
            : null}
        </LineChart>
      </ResponsiveContainer>
      <Key words={lanes} />
      <p className="quiet">Lines: expected in the leading explanation. Dots: read in this state.</p>
    </figure>
  )
}

function SuspectCourse({ data }: { data: Workbench }) {
  // Another number of readings is another course.
  const { data: course, error } = useQuery(courseQuery(data.call.id, data.readings.map((one) => one.entry_id).join()))
  if (error) return <p className="problem">{error.message}</p>
  if (!course) return <p className="quiet">Weighing the readings one by one …</p>
  return <CourseChart course={course} data={data} />
}

function CourseChart({ course, data }: { course: Course; data: Workbench }) {
  const words = new Map(data.readings.map((one) => [one.reading.id, `${one.value}, ${one.place}`]))
  const steps = course.steps.map((step, i) => ({
    at: i,
    reading: step.reading ? (words.get(step.reading) ?? '') : 'before',
    ...Object.fromEntries(course.places.map((place, k) => [place, Math.round((step.shares[k] ?? 0) * 1000) / 10])),
  }))
  return (
    <figure className="plot" aria-label="Confidence from reading to reading">
      <figcaption>
        <b>Confidence, reading by reading</b>
      </figcaption>
      <ResponsiveContainer width="100%" height={260}>
        <LineChart data={steps} margin={{ top: 8, right: 16, bottom: 4, left: 0 }} accessibilityLayer>
          <CartesianGrid stroke="var(--line)" vertical={false} />
          <XAxis dataKey="at" {...AXIS} allowDecimals={false} />
          <YAxis {...AXIS} unit=" %" domain={[0, 100]} width={64} />
          <Tooltip {...TIP} labelFormatter={(at) => steps[Number(at)]?.reading ?? ''} formatter={(value) => `${Number(value)} %`} />
          {course.places.map((place, i) => (
            <Line key={place} dataKey={place} {...(LINES[i] ?? LINES[0])} strokeWidth={3} dot={{ r: 3 }} isAnimationActive={false} />
          ))}
        </LineChart>
      </ResponsiveContainer>
      <Key words={course.places} />
    </figure>
  )
}

/** Which line is which, by the same color and dash. */
function Key({ words }: { words: readonly string[] }) {
  return (
    <ul className="plot-key">
      {words.map((one, i) => (
        <li key={one}>
          <svg width="34" height="10" aria-hidden="true">
            <line x1="0" x2="34" y1="5" y2="5" strokeWidth="3" {...(LINES[i] ?? LINES[0])} />
          </svg>
          {one}
        </li>
      ))}
    </ul>
  )
}

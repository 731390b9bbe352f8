import 'uplot/dist/uPlot.min.css'

import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import uPlot from 'uplot'

import { chartData } from '../../api/queries'
import type { CallLoadTests, ChartData } from '../../api/schema.gen'
import { useColours } from '../../shared/colours'
import { clock, type Window, zoomed } from './windows'

type Test = CallLoadTests['tests'][number]
type Channel = Test['channels'][number]

const HEIGHT = 200
const TICKS_S = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 43_200]
/** One line for each conductor, told apart by dashes too. */
const DASHES: number[][] = [[], [8, 5], [2, 4], [12, 4, 2, 4]]
const INKS = ['--copper', '--ink', '--ground', '--alarm']

/** Volts and amps over time; a window is fetched as fine as the screen shows it, however long the trace is. */
export function TraceChart({ callId, test }: { callId: string; test: Test }) {
  const whole = test.report?.duration_s ?? null
  const [window, setWindow] = useState<Window | null>(null)
  const { data } = useQuery(chartData(callId, test.id, window, test.progress))
  const end = whole ?? data?.seconds.at(-1) ?? 0
  const shown = window ?? { from: 0, to: end }
  const move = (by: number, zoom: number) => setWindow(zoomed(shown, end, by, zoom))
  return (
    <div className="trace">
      {(['volts', 'amps'] as const).map((kind) => {
        const places = test.channels.flatMap((one, i) => (one.kind === kind ? [i] : []))
        return places.length && data ? (
          <Plot
            key={kind}
            kind={kind}
            channels={places.map((i) => test.channels[i] as Channel)}
            data={data}
            places={places}
            zoom={(from, to) => setWindow(zoomed({ from, to }, end, 0, 1))}
          />
        ) : null
      })}
      {whole === null ? null : (
        <div className="row-of-buttons" role="group" aria-label="Move the chart">
          <button type="button" className="plain-button" disabled={shown.from <= 0} onClick={() => move(-0.5, 1)}>
            ◀ Earlier
          </button>
          <button type="button" className="plain-button" onClick={() => move(0, 0.5)}>
            Closer
          </button>
          <button type="button" className="plain-button" disabled={!window} onClick={() => move(0, 2)}>
            Wider
          </button>
          <button type="button" className="plain-button" disabled={shown.to >= end} onClick={() => move(0.5, 1)}>
            Later ▶
          </button>
          <button type="button" className="plain-button" disabled={!window} onClick={() => setWindow(null)}>
            All of it
          </button>
          <span className="quiet num">
            {clock(shown.from)} to {clock(shown.to)} min
          </span>
        </div>
      )}
    </div>
  )
}

type PlotProps = { kind: 'volts' | 'amps'; channels: readonly Channel[]; places: readonly number[]; data: ChartData; zoom: (from: number, to: number) => void }

function Plot({ kind, channels, places, data, zoom }: PlotProps) {
  const box = useRef<HTMLDivElement>(null)
  const plot = useRef<uPlot>(null)
  const zoomTo = useRef(zoom)
  const colours = useColours()
  useEffect(() => {
    zoomTo.current = zoom
  })
  const names = channels.map((one) => one.lanes.join(' to ')).join(',')
  useEffect(() => {
    const room = box.current
    if (!room) return
    const style = getComputedStyle(document.documentElement)
    const ink = style.getPropertyValue('--ink')
    const line = style.getPropertyValue('--line')
    const axis = { stroke: ink, grid: { stroke: line, width: 1 }, ticks: { stroke: line }, font: '14px Atkinson Hyperlegible Mono Variable' }
    const unit = kind === 'volts' ? 'V' : 'A'
    const made = new uPlot(
      {
        width: room.clientWidth,
        height: HEIGHT,
        scales: { x: { time: false } },
        cursor: { drag: { x: true, y: false, setScale: false } },
        legend: { show: false },
        axes: [
          { ...axis, incrs: TICKS_S, values: (_, ticks) => ticks.map(clock) },
          { ...axis, size: 68, values: (_, ticks) => ticks.map((one) => `${one} ${unit}`) },
        ],
        series: [
          {},
          ...names.split(',').flatMap((_, i): uPlot.Series[] => {
            const stroke = style.getPropertyValue(INKS[i % INKS.length] ?? '--ink')
            return ['high', 'low'].map(() => ({ stroke, width: 2, dash: DASHES[i % DASHES.length] ?? [], points: { show: false }, spanGaps: false }))
          }),
        ],
        bands: names.split(',').map((_, i) => ({ series: [1 + 2 * i, 2 + 2 * i], fill: `${style.getPropertyValue(INKS[i % INKS.length] ?? '--ink')}33` })),
        hooks: {
          setSelect: [
            (u) => {
              if (u.select.width > 8) zoomTo.current(u.posToVal(u.select.left, 'x'), u.posToVal(u.select.left + u.select.width, 'x'))
              u.setSelect({ left: 0, width: 0, top: 0, height: 0 }, false)
            },
          ],
        },
      },
      [[]],
      room,
    )
    plot.current = made
    const fit = new ResizeObserver(() => made.setSize({ width: room.clientWidth, height: HEIGHT }))
    fit.observe(room)
    return () => {
      fit.disconnect()
      made.destroy()
    }
  }, [kind, names, colours])
  useEffect(() => {
    const rows = places.flatMap((i) => [data.high[i] ?? [], data.low[i] ?? []])
    plot.current?.setData([data.seconds, ...rows] as uPlot.AlignedData)
  }, [data, places, names, kind, colours])
  return (
    <figure className="trace-plot">
      <figcaption>
        {kind === 'volts' ? 'Volts' : 'Amps'}
        {channels.map((one, i) => (
          <span key={one.lanes.join()} className={`trace-key trace-key-${i}`}>
            <svg width="30" height="8" aria-hidden="true">
              <line
                x1="0"
                x2="30"
                y1="4"
                y2="4"
                stroke={`var(${INKS[i % INKS.length]})`}
                strokeWidth="3"
                strokeDasharray={DASHES[i % DASHES.length]?.join(' ')}
              />
            </svg>
            {one.lanes.join(' to ')}
          </span>
        ))}
      </figcaption>
      <div ref={box} role="img" aria-label={`${kind === 'volts' ? 'Volts' : 'Amps'} over time: ${names.replaceAll(',', ', ')}`} />
    </figure>
  )
}

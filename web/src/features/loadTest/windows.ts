/** Windows over a trace: what a chart shows of it. */

export type Window = { from: number; to: number }

const LEAST_S = 2

/** A window moved by a share of its width and made wider or narrower about its middle; within the trace, or all of it. */
export function zoomed(shown: Window, end: number, by: number, zoom: number): Window | null {
  const width = Math.max(LEAST_S, (shown.to - shown.from) * zoom)
  if (width >= end) return null
  const middle = (shown.from + shown.to) / 2 + by * (shown.to - shown.from)
  const from = Math.min(Math.max(0, middle - width / 2), end - width)
  return { from, to: from + width }
}

/** Minutes and seconds, as a clock shows them. */
export function clock(seconds: number): string {
  const whole = Math.round(seconds)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}

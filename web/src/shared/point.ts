/** The ground at hand: a point without a part. */
export const GROUND = 'G'

/** A point's conductor, and the part behind which it is touched; no part of the ground at hand. */
export function partsOf(point: string): { lane: string; part: string } {
  const [lane = '', part = ''] = point.split('@')
  return { lane, part }
}

/** The point on a conductor behind a part. */
export function pointAt(lane: string, part: string): string {
  return `${lane}@${part}`
}

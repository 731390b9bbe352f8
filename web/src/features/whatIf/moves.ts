import type { Trial, Strip } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'
import { GROUND, partsOf, pointAt } from '../../shared/point'

type Move = Trial['moves'][number]
type Choice = { label: string; moves: Move[] }

/** What can be tried with what is touched: a lead with one point, a jumper, a move or a swap with two. */
export function choicesFor(strip: Strip, first: string | null, second: string | null): Choice[] {
  const lead = (point: string | null) => {
    const { lane, part } = partsOf(point ?? '')
    const row = rowsOf(strip).find((one) => one.part === part && one.role === 'series')
    return row && lane !== GROUND && row.comes_from[lane] ? { lane, part } : null
  }
  const a = first ?? second
  const b = first && second ? second : null
  const [from, to] = [lead(a), lead(b)]
  const found: Choice[] = []
  if (a && from && !b) found.push({ label: `Lift ${said(strip, a)}`, moves: [{ kind: 'lifted', ...from }] })
  if (!a || !b) return found
  found.push({ label: 'Jumper between the two', moves: [{ kind: 'jumper', a, b }] })
  if (from) found.push({ label: `Move ${said(strip, a)} to ${said(strip, b)}`, moves: [{ kind: 'landed', ...from, at: b }] })
  if (from && to)
    found.push({
      label: 'Swap the two leads',
      moves: [
        { kind: 'landed', ...from, at: b },
        { kind: 'landed', ...to, at: a },
      ],
    })
  return found
}

/** A point in words. */
function said(strip: Strip, point: string): string {
  const { lane, part } = partsOf(point)
  const row = rowsOf(strip).find((one) => one.part === part)
  return `${lane === GROUND ? 'ground' : lane} at ${row?.point_name || row?.name || part}`
}

/** A change in words. */
export function moveWords(strip: Strip, move: Move): string {
  switch (move.kind) {
    case 'jumper':
      return `Jumper from ${said(strip, move.a)} to ${said(strip, move.b)}`
    case 'lifted':
      return `Lift ${said(strip, pointAt(move.lane, move.part))}`
    case 'landed':
      return `Move ${said(strip, pointAt(move.lane, move.part))} to ${said(strip, move.at)}`
    default:
      return ''
  }
}

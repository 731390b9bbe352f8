import type { PanelAnswer } from '../../api/schema.gen'

type Space = PanelAnswer['spaces'][number]

/** How a breaker sits in a space. */
export type Shape = 'one' | 'two' | 'three' | 'upper' | 'lower' | 'halves' | 'inner'

export const SHAPES: readonly (readonly [Shape, string])[] = [
  ['one', 'one pole, the whole space'],
  ['two', 'two poles: this space and the one below'],
  ['three', 'three poles: this space and the two below'],
  ['upper', 'one pole, upper half of a tandem'],
  ['lower', 'one pole, lower half of a tandem'],
  ['halves', 'two poles, both halves of this space'],
  ['inner', 'two poles: lower half here, upper half below'],
]

/** The space below on the same side; none at the panel's end. */
const below = (spaces: readonly Space[], at: Space, rows: number) => spaces.find((one) => one.side === at.side && one.row === at.row + rows)

/** The poles of a breaker of some shape whose topmost pole is in a space; none where the panel ends first. */
export function polesOf(spaces: readonly Space[], at: Space, shape: Shape): string[] | null {
  const count = shape === 'two' || shape === 'inner' ? 2 : shape === 'three' ? 3 : 1
  const run = Array.from({ length: count }, (_, i) => below(spaces, at, i))
  if (run.some((one) => one === undefined)) return null
  const numbers = run.map((one) => String(one?.space))
  switch (shape) {
    case 'upper':
      return [`${at.space}A`]
    case 'lower':
      return [`${at.space}B`]
    case 'halves':
      return [`${at.space}A`, `${at.space}B`]
    case 'inner':
      return [`${numbers[0]}B`, `${numbers[1]}A`]
    case 'one':
    case 'two':
    case 'three':
      return numbers
  }
}

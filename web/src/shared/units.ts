/** The trade's units at the edge; the core speaks SI. */

const METRES_PER_FOOT = 0.3048
const MM_PER_INCH = 25.4

const tidy = (value: number, digits: number) => Number(value.toFixed(digits))

export const feetOf = (metres: number) => tidy(metres / METRES_PER_FOOT, 1)
export const metresOf = (feet: number) => feet * METRES_PER_FOOT
export const fahrenheitOf = (celsius: number) => tidy(celsius * 1.8 + 32, 1)
export const celsiusOf = (fahrenheit: number) => (fahrenheit - 32) / 1.8
export const inchesOf = (mm: number) => tidy(mm / MM_PER_INCH, 2)
export const mmOf = (inches: number) => inches * MM_PER_INCH

/** A number for the eye: as many digits as a technician reads, no needless zeros. */
export function shown(value: number): string {
  const size = Math.abs(value)
  if (size === 0) return '0'
  const digits = Math.max(0, 3 - Math.floor(Math.log10(size)))
  return String(Number(value.toFixed(Math.min(digits, 5))))
}

const KCMIL: Record<number, number> = { [-4]: 250, [-5]: 300, [-6]: 350, [-7]: 400, [-8]: 500 }

export const gauge = (size: number) => (KCMIL[size] ? `${KCMIL[size]} kcmil` : size > 0 ? `${size} AWG` : `${1 - size}/0 AWG`)

/** How a unit of the core is written. */
export const UNIT_SIGNS = { V: 'V', A: 'A', s: 's', degF: '°F', cfm: 'cfm', ohm: 'Ω', '%': '%' } as const

import type { Table } from '../../api/schema.gen'
import { gauge } from '../../shared/units'

/** As it is spelled on screen; what is stored keeps the spelling of the code's tables. */
export const american = (words: string) => words.replaceAll('luminium', 'luminum')

/** A cell as the eye reads it: gauges in words, an end of a range that is no end as one. */
export function cellWords(table: Table, cell: number | string, column: number): string {
  if (typeof cell === 'string') return american(cell)
  if (table.units[column] === 'AWG') return gauge(cell)
  return cell >= 1000 && table.columns[column] === 'up to' ? 'more' : String(cell)
}

/** Rows that hold every word sought, in the row itself or in the table's title. */
export function rowsThatHold(table: Table, sought: string): Table['rows'] {
  const words = american(sought.toLowerCase()).split(/\s+/).filter(Boolean)
  return table.rows.filter((row) => {
    const text = `${table.title} ${table.source} ${row.map((cell, j) => cellWords(table, cell, j)).join(' ')} `.toLowerCase()
    return words.every((word) =>
      /^\d/.test(word) ? new RegExp(`(^|[^\\d/.])${word.replace(/[.*+?^$()|[\]\\{}]/g, '\\$&')}([^\\d/]|$)`).test(text) : text.includes(word),
    )
  })
}

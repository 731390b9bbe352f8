import type { Strip, StripRow } from '../../api/schema.gen'

/** Every row of every section. */
export const rowsOf = (strip: Strip): StripRow[] => strip.sections.flatMap((section) => section.rows)

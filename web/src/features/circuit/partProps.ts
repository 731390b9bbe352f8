import type { Circuit, Part, PartKind, Strip, StripRow } from '../../api/schema.gen'
import type { Edit } from '../../entities/circuit/parts'

/** What is shown of one part, and how it is changed. */
export type PartProps = {
  row: StripRow
  part: Part
  circuit: Circuit
  strip: Strip
  kinds: PartKind[]
  busy: boolean
  change: (edit: Edit) => void
}

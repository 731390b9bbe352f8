import type { StripRow } from '../../api/schema.gen'
import { PartEditor } from './PartEditor'
import type { PartProps } from './partProps'
import { PlaceEditor } from './PlaceEditor'

type Props = PartProps & { isOpen: boolean; toggle: () => void; previous: StripRow | undefined }

/** One part: its name and size, and when touched the ways to change it. */
export function PartRow({ isOpen, toggle, previous, ...rest }: Props) {
  const { row, circuit } = rest
  const lanes = Object.keys(row.points).length ? Object.keys(row.points) : Object.keys(row.comes_from)
  const ahead = circuit.parts.find((one) => one.id === row.hangs_on)
  // What hangs on the row above needs no word.
  const apart = ahead && previous && previous.part !== ahead.id ? `on the ${ahead.name}` : ''
  return (
    <div className={`part-row ${isOpen ? 'is-open' : ''}`}>
      <button type="button" className="part-head" aria-expanded={isOpen} onClick={toggle}>
        <span className="part-lanes num">{lanes.filter((lane) => lane !== 'G').join(' ')}</span>
        <span>
          <strong>{row.name}</strong>
          <span className="quiet"> {[row.device, row.detail, apart].filter(Boolean).join(' · ')}</span>
        </span>
      </button>
      {isOpen ? (
        <div className="part-editor">
          <PartEditor {...rest} />
          <PlaceEditor {...rest} />
        </div>
      ) : null}
    </div>
  )
}

import { Button, Select } from 'antd'
import { useState } from 'react'

import type { Strip } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'
import type { PartProps } from './partProps'

/** Where a part stands: what is put in behind it, and moving, copying and taking it out. */
export function PlaceEditor({ row, part, circuit, strip, kinds, busy, change }: PartProps) {
  const [kind, setKind] = useState<string | null>(null)
  const [place, setPlace] = useState<string | null>(null)
  const isSource = row.role === 'source'
  const isFirst = circuit.parts[0]?.id === part.id
  const ownsMore = circuit.parts.some((one) => one.after === part.id) || row.role !== 'shunt'
  // A transformer stands in two sections: its own is where something hangs on it.
  const carriesOn = row.role !== 'shunt'
  const carriers = carriersIn(strip)
  const places = circuit.parts.filter((one) => one.id !== part.id && carriers.has(one.id))
  const put = (beside: boolean) => {
    if (kind) change({ do: 'add', behind: part.id, kind, beside })
  }
  return (
    <>
      {carriesOn ? (
        <div className="part-insert">
          <Select
            aria-label="Kind of part to put in"
            placeholder="Put a part in behind it …"
            virtual={false}
            showSearch={{ optionFilterProp: 'label' }}
            value={kind}
            options={kinds.map((one) => ({ value: one.kind, label: one.label }))}
            onChange={setKind}
          />
          <Button disabled={!kind || busy} onClick={() => put(false)}>
            Put in
          </Button>
          <Button disabled={!kind || busy} onClick={() => put(true)}>
            As a branch
          </Button>
        </div>
      ) : null}
      {isSource ? null : (
        <div className="part-insert">
          <Select
            aria-label="Place to move or copy it to"
            placeholder="Move or copy it behind …"
            virtual={false}
            showSearch={{ optionFilterProp: 'label' }}
            value={place}
            options={places.map((one) => ({ value: one.id, label: one.name }))}
            onChange={setPlace}
          />
          <Button disabled={!place || busy} onClick={() => place && change({ do: 'move', part: part.id, behind: place, whole: true })}>
            Move
          </Button>
          <Button disabled={busy} onClick={() => change({ do: 'copy', part: part.id, behind: place ?? row.hangs_on ?? part.id, whole: true })}>
            Copy
          </Button>
        </div>
      )}
      {isFirst ? null : (
        <div className="part-actions">
          {isSource ? null : (
            <Button disabled={busy} onClick={() => change({ do: 'remove', part: part.id, whole: false })}>
              Take it out
            </Button>
          )}
          {ownsMore ? (
            <Button danger disabled={busy} onClick={() => change({ do: 'remove', part: part.id, whole: true })}>
              Take out with all behind it
            </Button>
          ) : null}
        </div>
      )}
    </>
  )
}

/** The parts that others may hang on. */
const carriersIn = (strip: Strip) => new Set(rowsOf(strip).flatMap((one) => (one.role === 'shunt' ? [] : [one.part])))

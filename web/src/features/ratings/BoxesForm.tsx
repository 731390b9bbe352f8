import { Button } from 'antd'

import { ChoiceField, NumberField, YesNoField } from '../../shared/fields'
import { changed, rowKey, without } from '../../shared/rows'
import { type Sheet, SIZES } from './sheet'

type Box = Sheet['boxes'][number]

const SMALL = SIZES.filter(([size]) => size >= 6)

/** Boxes: their room, and what is in them. */
export function BoxesForm({ boxes, set }: { boxes: readonly Box[]; set: (boxes: Box[]) => void }) {
  const add = () => set([...boxes, { name: `box ${boxes.length + 1}`, wires: [{ size_awg: 10, count: 4 }], grounds: [], clamps: false, fittings: 0, yokes: 0 }])
  return (
    <>
      {boxes.map((box, i) => {
        const put = (more: Partial<Box>) => set(changed(boxes, i, more))
        const wire = box.wires[0] ?? { size_awg: 10, count: 1 }
        const ground = box.grounds[0]
        return (
          <fieldset key={rowKey(box)}>
            <legend>{box.name}</legend>
            <div className="part-fields">
              <NumberField label="Room" unit="in³" value={box.volume_in3} set={(volume_in3) => put({ volume_in3 })} />
              <ChoiceField
                label="Wire size"
                value={wire.size_awg}
                options={SMALL}
                set={(size) => size !== null && put({ wires: [{ ...wire, size_awg: size }] })}
              />
              <NumberField label="Conductors" unit="" whole value={wire.count} set={(count) => count !== null && put({ wires: [{ ...wire, count }] })} />
              <NumberField
                label="Grounds"
                unit=""
                whole
                value={ground?.count}
                set={(count) => put({ grounds: count ? [{ size_awg: ground?.size_awg ?? wire.size_awg, count }] : [] })}
              />
              <YesNoField label="Clamps inside" value={box.clamps} set={(clamps) => put({ clamps: clamps ?? false })} />
              <NumberField label="Devices" unit="" whole value={box.yokes} set={(yokes) => put({ yokes: yokes ?? 0 })} />
              <YesNoField label="Can be reached" value={box.accessible} set={(accessible) => put({ accessible })} />
            </div>
            <Button type="link" aria-label={`Remove: ${box.name}`} onClick={() => set(without(boxes, i))}>
              Remove
            </Button>
          </fieldset>
        )
      })}
      <p className="keep">
        <Button onClick={add}>Add a box</Button>
      </p>
    </>
  )
}

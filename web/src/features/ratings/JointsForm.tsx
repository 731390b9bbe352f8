import { Button } from 'antd'

import { ChoiceField, NumberField, YesNoField } from '../../shared/fields'
import { changed, rowKey, without } from '../../shared/rows'
import { type Sheet, SIZES } from './sheet'

type Joint = Sheet['joints'][number]
type Metals = Joint['metals']

const METALS = [
  ['copper', 'copper'],
  ['aluminium', 'aluminum'],
  ['both', 'both'],
] as const
const COVERS = [
  ['listed connector or cover', 'listed connector or cover'],
  ['rubber tape under vinyl', 'rubber tape under vinyl'],
  ['vinyl tape alone', 'vinyl tape alone'],
  ['none', 'none'],
] as const

const wordOf = (metals: Metals) => (metals.length === 0 ? null : metals.length > 1 ? 'both' : (metals[0] ?? null))
const metalsOf = (word: (typeof METALS)[number][0] | null): Metals => (word === null ? [] : word === 'both' ? ['copper', 'aluminium'] : [word])

const NEW: Joint = { name: 'joint', wires: [], metals: [], marked_for: [], marked_for_mixing: false, is_splice: false }

/** Terminals and splices: what is in them, what they are marked for, and how they were made. */
export function JointsForm({ joints, set }: { joints: readonly Joint[]; set: (joints: Joint[]) => void }) {
  const add = (is_splice: boolean) => set([...joints, { ...NEW, name: `${is_splice ? 'splice' : 'terminal'} ${joints.length + 1}`, is_splice }])
  return (
    <>
      {joints.map((joint, i) => {
        const put = (more: Partial<Joint>) => set(changed(joints, i, more))
        const wire = joint.wires[0]
        return (
          <fieldset key={rowKey(joint)}>
            <legend>{joint.name}</legend>
            <div className="part-fields">
              <ChoiceField label="Wires are" value={wordOf(joint.metals)} options={METALS} set={(word) => put({ metals: metalsOf(word) })} />
              <ChoiceField label="Marked for" value={wordOf(joint.marked_for)} options={METALS} set={(word) => put({ marked_for: metalsOf(word) })} />
              <ChoiceField
                label="Wire size"
                value={wire?.size_awg}
                options={SIZES}
                set={(size) => put({ wires: size === null ? [] : [{ size_awg: size, count: wire?.count ?? 1 }] })}
              />
              {wire ? <NumberField label="How many" unit="" whole value={wire.count} set={(count) => count && put({ wires: [{ ...wire, count }] })} /> : null}
              <ChoiceField label="Thinnest it takes" value={joint.least_awg} options={SIZES} set={(least_awg) => put({ least_awg })} />
              <ChoiceField label="Thickest it takes" value={joint.most_awg} options={SIZES} set={(most_awg) => put({ most_awg })} />
              <NumberField label="Wires it takes" unit="" whole value={joint.most_wires} set={(most_wires) => put({ most_wires })} />
              {joint.is_splice ? (
                <>
                  <ChoiceField label="Covered by" value={joint.cover} options={COVERS} set={(cover) => put({ cover })} />
                  <YesNoField label="Listed for both metals" value={joint.marked_for_mixing} set={(yes) => put({ marked_for_mixing: yes ?? false })} />
                </>
              ) : (
                <>
                  <YesNoField label="Marked for both together" value={joint.marked_for_mixing} set={(yes) => put({ marked_for_mixing: yes ?? false })} />
                  <NumberField label="Torque on the label" unit="lbf·in" value={joint.label_lbf_in} set={(label_lbf_in) => put({ label_lbf_in })} />
                  <NumberField label="Torque used" unit="lbf·in" value={joint.used_lbf_in} set={(used_lbf_in) => put({ used_lbf_in })} />
                </>
              )}
              <NumberField label="Strands" unit="" whole value={joint.strands} set={(strands) => put({ strands })} />
              <NumberField label="Strands left in it" unit="" whole value={joint.strands_left} set={(strands_left) => put({ strands_left })} />
            </div>
            <Button type="link" aria-label={`Remove: ${joint.name}`} onClick={() => set(without(joints, i))}>
              Remove
            </Button>
          </fieldset>
        )
      })}
      <p className="keep">
        <Button onClick={() => add(false)}>Add a terminal</Button>
        <Button onClick={() => add(true)}>Add a splice</Button>
      </p>
    </>
  )
}

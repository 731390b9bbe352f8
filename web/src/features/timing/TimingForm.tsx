import { Button, Checkbox, Input, Select } from 'antd'
import { useState } from 'react'

import type { CallLoadTests, Workbench } from '../../api/schema.gen'
import { rowsOf } from '../../entities/strip/rows'
import { NumberField, PickField } from '../../shared/fields'
import { changed, rowKey, without } from '../../shared/rows'
import { byHand, type Step } from './timing'

export type Draft = {
  steps: Step[]
  until_s: number
  clamp: string
  leg: string
  seen: string
  log: string
  cfm: number | null
  fan: string
  suspect: string
  jumpers: { a: string; b: string }[]
}

type Props = { data: Workbench; tests: CallLoadTests['tests']; draft: Draft; set: (draft: Draft) => void; badSeen: boolean }

/** The run: when what is called or switched, where the clamp is, what was noted, and changes to try in the model. */
export function TimingForm({ data, tests, draft, set, badSeen }: Props) {
  const { circuit, strip, diagnosis } = data
  const put = (more: Partial<Draft>) => set({ ...draft, ...more })
  const { switches } = byHand(circuit, strip)
  const wires = circuit.parts.filter((part) => part.conductor)
  const legs = strip.sections[0]?.lanes.filter((lane) => lane !== 'G') ?? ['L1']
  const motors = rowsOf(strip).filter((row) => row.is_motor)
  const suspects = diagnosis.suspects.filter((one) => !['none_of_these', 'two_at_once', 'nothing_wrong'].includes(one.kind))
  const logged = tests.filter((one) => one.report)
  const setStep = (i: number, more: Partial<Step>) => put({ steps: changed(draft.steps, i, more) })
  return (
    <div className="timing-form">
      <fieldset>
        <legend>Called and switched</legend>
        {draft.steps.map((step, i) => (
          <div key={rowKey(step)} className="timing-step">
            <NumberField label={`From, step ${i + 1}`} unit="s" value={step.at_s} set={(at_s) => at_s !== null && at_s >= 0 && setStep(i, { at_s })} />
            <Checkbox.Group
              value={step.open_switches}
              options={switches.map((one) => ({ value: one.id, label: `${one.name} ${one.open}` }))}
              onChange={(open_switches) => setStep(i, { open_switches })}
            />
            {i > 0 ? (
              <Button type="link" aria-label={`Remove step ${i + 1}`} onClick={() => put({ steps: without(draft.steps, i) })}>
                Remove
              </Button>
            ) : null}
          </div>
        ))}
        <p className="keep">
          <Button
            disabled={draft.steps.length >= 12}
            onClick={() => put({ steps: [...draft.steps, { at_s: (draft.steps.at(-1)?.at_s ?? 0) + 60, open_switches: [] }] })}
          >
            Add a step
          </Button>
        </p>
      </fieldset>
      <fieldset>
        <legend>Clamp, fan and air</legend>
        <div className="part-fields">
          <NumberField label="Until" unit="s" value={draft.until_s} set={(until_s) => until_s !== null && until_s > 0 && put({ until_s })} />
          <PickField
            label="Clamp on"
            value={draft.clamp}
            options={[['', 'wires that carry it all'], ...wires.map((one) => [one.id, one.name] as const)]}
            set={(clamp) => put({ clamp })}
          />
          <PickField label="Conductor" value={draft.leg} options={legs.map((lane) => [lane, lane] as const)} set={(leg) => put({ leg })} />
          <PickField
            label="The fan is"
            value={draft.fan}
            options={[['', 'what runs longest'], ...motors.map((row) => [row.part, row.name] as const)]}
            set={(fan) => put({ fan })}
          />
          <NumberField label="Blower in heating" unit="cfm" value={draft.cfm} set={(cfm) => put({ cfm })} />
        </div>
      </fieldset>
      <fieldset>
        <legend>What was seen</legend>
        {logged.length ? (
          <PickField
            label="From a load test"
            value={draft.log}
            options={[['', 'typed below'], ...logged.map((one) => [one.id, one.title] as const)]}
            set={(log) => put({ log })}
          />
        ) : null}
        <label className="labelled">
          Seconds and amps, a pair a line
          <Input.TextArea
            className="num"
            aria-label="Seconds and amps, a pair a line"
            rows={4}
            value={draft.seen}
            disabled={draft.log !== ''}
            placeholder={'0 0\n42 21.5'}
            status={badSeen ? 'error' : ''}
            onChange={(event) => put({ seen: event.target.value })}
          />
        </label>
        {badSeen ? (
          <p className="problem" role="alert">
            Each line wants seconds and amps, as “42 21.5”.
          </p>
        ) : null}
      </fieldset>
      <fieldset>
        <legend>In the model only: what if</legend>
        <PickField
          label="On top of"
          value={draft.suspect}
          options={[['', 'nothing wrong'], ...suspects.map((one) => [one.key, one.words] as const)]}
          set={(suspect) => put({ suspect })}
        />
        <Jumpers data={data} jumpers={draft.jumpers} set={(jumpers) => put({ jumpers })} />
      </fieldset>
    </div>
  )
}

/** Clip leads between two points, in the model. */
function Jumpers({ data, jumpers, set }: { data: Workbench; jumpers: Draft['jumpers']; set: (jumpers: Draft['jumpers']) => void }) {
  const [a, setA] = useState<string | null>(null)
  const [b, setB] = useState<string | null>(null)
  const points = data.strip.sections.flatMap((section) =>
    section.rows.flatMap((row) =>
      Object.entries(row.points)
        .filter(([lane]) => lane !== 'G')
        .map(([lane, point]) => ({ value: point, label: `${lane}, ${row.point_name || row.name}` })),
    ),
  )
  const nameOf = (point: string) => points.find((one) => one.value === point)?.label ?? point
  return (
    <>
      <div className="part-insert">
        <Select
          aria-label="Jumper from"
          placeholder="Jumper from …"
          virtual={false}
          showSearch={{ optionFilterProp: 'label' }}
          value={a}
          options={points}
          onChange={setA}
        />
        <Select
          aria-label="Jumper to"
          placeholder="to …"
          virtual={false}
          showSearch={{ optionFilterProp: 'label' }}
          value={b}
          options={points}
          onChange={setB}
        />
        <Button
          disabled={!a || !b || a === b || jumpers.length >= 8}
          onClick={() => {
            if (!a || !b) return
            set([...jumpers, { a, b }])
            setA(null)
            setB(null)
          }}
        >
          Add the jumper
        </Button>
      </div>
      <ul className="moves">
        {jumpers.map((one, i) => (
          <li key={rowKey(one)}>
            {nameOf(one.a)} to {nameOf(one.b)}{' '}
            <Button type="link" aria-label={`Take back: jumper ${i + 1}`} onClick={() => set(without(jumpers, i))}>
              Take back
            </Button>
          </li>
        ))}
      </ul>
    </>
  )
}

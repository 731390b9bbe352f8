import { Button } from 'antd'
import { useState } from 'react'

import type { Feeds, PanelAnswer } from '../../api/schema.gen'
import { idFrom } from '../../entities/siteMap/idFrom'
import { NumberField, PickField, TextField } from '../../shared/fields'
import { polesOf, type Shape, SHAPES } from './poles'

type Space = PanelAnswer['spaces'][number]
type Props = { feeds: Feeds; panel: string; spaces: readonly Space[]; space: Space; busy: boolean; change: (next: Feeds) => void }

const NEW = '+'

/** What sits in a space: a breaker that is listed already, or a new one. */
export function BreakerForm({ feeds, panel, spaces, space, busy, change }: Props) {
  const switches = feeds.switches ?? []
  const here = switches.filter((one) => space.switches.includes(one.id))
  const listed = switches.filter((one) => one.kind === 'breaker')
  const [which, setWhich] = useState(here[0]?.id ?? NEW)
  const known = listed.find((one) => one.id === which)
  const [name, setName] = useState(`Breaker ${space.space}`)
  const [amps, setAmps] = useState<number | null>(known?.amps ?? null)
  const [label, setLabel] = useState(known?.label ?? '')
  const [shape, setShape] = useState<Shape>('one')
  const poles = polesOf(spaces, space, shape)
  const put = () => {
    if (!poles) return
    const data = { amps, label: label.trim(), panel, poles }
    const next = known
      ? switches.map((one) => (one.id === known.id ? { ...one, ...data } : one))
      : [
          ...switches,
          {
            id: idFrom(
              'breaker',
              switches.map((one) => one.id),
            ),
            kind: 'breaker' as const,
            name: name.trim(),
            ...data,
          },
        ]
    change({ ...feeds, switches: next })
  }
  return (
    <form
      className="add-form panel-form"
      aria-label={`Space ${space.space}`}
      onSubmit={(event) => {
        event.preventDefault()
        put()
      }}
    >
      <h3>
        Space {space.space}, on {space.leg}
      </h3>
      <PickField
        label="Which breaker"
        value={which}
        options={[...listed.map((one) => [one.id, one.name] as const), [NEW, 'one that is not listed yet']]}
        set={(id) => {
          setWhich(id)
          const chosen = listed.find((one) => one.id === id)
          setAmps(chosen?.amps ?? null)
          setLabel(chosen?.label ?? '')
        }}
      />
      {known ? null : <TextField label="Name" value={name} set={setName} />}
      <PickField label="How it sits" value={shape} options={SHAPES} set={setShape} />
      <NumberField key={which} label="On its handle" unit="A" value={amps} set={setAmps} />
      <TextField label="Its label says" value={label} set={setLabel} />
      {poles ? null : (
        <p className="problem" role="alert">
          The panel ends here: choose a space further up.
        </p>
      )}
      <Button type="primary" htmlType="submit" disabled={busy || !poles || (!known && !name.trim())}>
        Put it there
      </Button>
      {here.length ? (
        <Button
          disabled={busy}
          onClick={() => change({ ...feeds, switches: switches.map((one) => (space.switches.includes(one.id) ? { ...one, panel: null, poles: [] } : one)) })}
        >
          Take it out of the map
        </Button>
      ) : null}
    </form>
  )
}

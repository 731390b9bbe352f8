import { Checkbox, Empty } from 'antd'
import { Link } from 'react-router'

import { StopView } from '../../entities/answer/StopView'
import { percent } from '../../entities/reading/words'
import { toggled } from '../../entities/repair/toggled'
import { useNotes } from '../../entities/repair/useNotes'
import { type Repaired, WithRepair } from '../../entities/repair/WithRepair'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { BackOn } from './BackOn'
import { PutBackList } from './PutBackList'
import { RepairCard } from './RepairCard'

/** What is done about what was found: choices, parts, the order of the work, what must be proven after. */
export default function RepairPage() {
  return <WithRepair what="the repair" Page={Shown} />
}

function Shown({ callId, data }: Repaired) {
  const { plan, notes, verdict, call } = data
  const { change, clash } = useNotes(callId, data)
  const done = notes.done ?? []
  const tick = (line: string) => change((all) => ({ ...all, done: toggled(all.done ?? [], line) }))
  const lists: [string, readonly string[]][] = [
    ['Before any hand goes in', plan.before],
    ['The work in order', plan.order],
    ['Check what it may have hurt', plan.harm],
  ]
  return (
    <div className="page repair">
      <FrameTitle title={`Repair of ${call.equipment_name}`}>
        <span className="grow title-words">
          <b>Repair</b> <span>{call.equipment_name}</span>
        </span>
        <button type="button" className="head-plain" onClick={() => window.print()}>
          Print
        </button>
      </FrameTitle>
      {data.stop ? <StopView stop={data.stop} /> : null}
      <Clash {...clash} />
      {plan.items.length ? null : (
        <Empty image={Empty.PRESENTED_IMAGE_SIMPLE} description="Nothing is to be repaired yet: find the place first, or note the damage that you see." />
      )}
      {plan.items.length && verdict.standing !== 'sure' ? (
        <p className="caution bare">
          Not found yet (confidence {percent(verdict.probability)}): this is what each place would ask. Open nothing up for it before the next test.
        </p>
      ) : null}
      {plan.items.map((item) => (
        <RepairCard
          key={item.key}
          item={item}
          chosen={item.question ? (notes.chosen?.[item.question.key] ?? null) : null}
          done={done}
          mayChange={data.may_change}
          tick={tick}
          choose={(key, chosen) => change((all) => ({ ...all, chosen: { ...all.chosen, [key]: chosen } }))}
        />
      ))}
      {plan.items.length
        ? lists.map(([title, lines]) =>
            lines.length ? (
              <section key={title} aria-label={title}>
                <h2>{title}</h2>
                <ol className="work-list">
                  {lines.map((line) => (
                    <li key={line}>
                      <Checkbox checked={done.includes(line)} disabled={!data.may_change} onChange={() => tick(line)}>
                        {line}
                      </Checkbox>
                    </li>
                  ))}
                </ol>
              </section>
            ) : null,
          )
        : null}
      {plan.items.length && plan.back_on.length ? <BackOn steps={plan.back_on} done={done} mayChange={data.may_change} tick={tick} /> : null}
      {plan.items.length ? (
        <section aria-label="To be proven after">
          <h2>To be proven after</h2>
          <ul>
            {plan.prove.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
          <Link className="plain-button" to={`/calls/${callId}/prove`}>
            Prove it
          </Link>
        </section>
      ) : null}
      <p className="row-of-buttons">
        <Link className="plain-button" to={`/calls/${callId}/repair/heater`}>
          Replace a heater
        </Link>
      </p>
      <PutBackList
        list={notes.put_back ?? []}
        mayChange={data.may_change}
        change={(next) => change((all) => ({ ...all, put_back: next(all.put_back ?? []) }))}
      />
      <p className="quiet">Nameplate, maker’s instructions, local code and whoever is licensed decide.</p>
    </div>
  )
}

import { Checkbox } from 'antd'
import { Link } from 'react-router'

import { StopView } from '../../entities/answer/StopView'
import { toggled } from '../../entities/repair/toggled'
import { useNotes } from '../../entities/repair/useNotes'
import { type Repaired, WithRepair } from '../../entities/repair/WithRepair'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'

/** Safe enough to look: what is seen to before any cover comes off. */
export default function SafePage() {
  return <WithRepair what="what comes first" Page={Shown} />
}

function Shown({ callId, data }: Repaired) {
  const { change, clash } = useNotes(callId, data)
  const done = data.notes.done ?? []
  const left = data.safe.filter((line) => !done.includes(line)).length
  return (
    <div className="page safe">
      <FrameTitle title={`Make safe: ${data.call.equipment_name}`}>
        <span className="grow title-words">
          <b>Make safe</b> <span>{data.call.equipment_name}</span>
        </span>
      </FrameTitle>
      {data.stop ? <StopView stop={data.stop} /> : null}
      <Clash {...clash} />
      <p className={`proof-summary ${left ? '' : 'holds'}`} role="status">
        <b>{left ? `${left} before you look` : 'Safe enough to look'}</b>
      </p>
      <ul className="work-list" aria-label="Before you look">
        {data.safe.map((line) => (
          <li key={line}>
            <Checkbox
              checked={done.includes(line)}
              disabled={!data.may_change}
              onChange={() => change((all) => ({ ...all, done: toggled(all.done ?? [], line) }))}
            >
              {line}
            </Checkbox>
          </li>
        ))}
      </ul>
      <Link className="accent-button" to={`/calls/${callId}`}>
        On to finding it
      </Link>
    </div>
  )
}

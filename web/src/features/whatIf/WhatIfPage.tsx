import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { Button } from 'antd'
import { useReducer, useState } from 'react'
import { Link, useParams } from 'react-router'

import { answered, api, RequestFailed } from '../../api/client'
import { workbench } from '../../api/queries'
import type { Trial as Tried, WhatIf, Workbench } from '../../api/schema.gen'
import { atRest, reduce } from '../../entities/strip/setup'
import { StripView } from '../../entities/strip/StripView'
import { PickField } from '../../shared/fields'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { GROUND, partsOf, pointAt } from '../../shared/point'
import { rowKey, without } from '../../shared/rows'
import { Failed, Loading } from '../../shared/states'
import { useWide } from '../../shared/useWide'
import { choicesFor, moveWords } from './moves'

type Move = Tried['moves'][number]

/** A jumper, a lifted lead or a swap in the model, before anything is touched in metal. */
export default function WhatIfPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(workbench(callId))
  if (data) return <Trial key={callId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the call" />
}

function Trial({ data: { call, circuit, strip, diagnosis } }: { data: Workbench }) {
  const [setup, dispatch] = useReducer(reduce, atRest)
  const [moves, setMoves] = useState<Move[]>([])
  const [suspect, setSuspect] = useState('')
  const wide = useWide()
  const body = { moves, open_switches: [...setup.open].sort(), suspect: suspect || null }
  const { data, error } = useQuery({
    queryKey: ['what-if', call.id, body],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/what-if', { params: { path: { call_id: call.id } }, body })),
    enabled: moves.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  })
  const shown = moves.length && data && !error ? data : null
  const ground = (point: string | null) => (point === GROUND && setup.black && setup.black !== GROUND ? pointAt(GROUND, partsOf(setup.black).part) : point)
  const suspected = diagnosis.suspects
    .filter((one) => one.kind !== 'none_of_these' && one.kind !== 'two_at_once' && one.kind !== 'nothing_wrong')
    .map((one) => [one.key, one.words] as const)
  const choices = choicesFor(strip, ground(setup.black), ground(setup.red))
  return (
    <div className="bench">
      <FrameTitle title="What if">
        <span className="grow title-words">
          <b>What if …</b> <span>{call.equipment_name}</span>
        </span>
        <Link className="head-plain" to={`/calls/${call.id}`}>
          Back to the call
        </Link>
      </FrameTitle>
      <div className="bench-answer">
        <section className="next-test" aria-label="Changes to try">
          <h2>In the model only: nothing here is an instruction to do it live</h2>
          <p className="quiet">Touch one point for a lead, two for a jumper or a move. Flip switches to set the state.</p>
          <div className="signs" role="group" aria-label="Change">
            {choices.map((one) => (
              <Button key={one.label} onClick={() => setMoves([...moves, ...one.moves])}>
                {one.label}
              </Button>
            ))}
          </div>
          <ul className="moves">
            {moves.map((move, i) => (
              <li key={rowKey(move)}>
                {moveWords(strip, move)}{' '}
                <Button type="link" aria-label={`Take back: ${moveWords(strip, move)}`} onClick={() => setMoves(without(moves, i))}>
                  Take back
                </Button>
              </li>
            ))}
          </ul>
          <PickField label="On top of" value={suspect} options={[['', 'nothing wrong'], ...suspected]} set={setSuspect} />
        </section>
        {error ? <p className="problem">{error instanceof RequestFailed ? error.problem.message : 'The change could not be tried.'}</p> : null}
        {shown ? <Effects effects={shown} /> : null}
      </div>
      <div className="bench-strip">
        <Panel what="drawing">
          <StripView
            circuit={circuit}
            strip={strip}
            setup={setup}
            suspects={[]}
            states={shown ? [shown.after] : diagnosis.lanes}
            panelShut={false}
            looks={[]}
            room={wide ? 240 : 186}
            dispatch={dispatch}
          />
        </Panel>
      </div>
    </div>
  )
}

function Effects({ effects }: { effects: WhatIf }) {
  return (
    <section className="verdict" aria-label="What it would do" aria-live="polite">
      {effects.dangers.map((words) => (
        <p key={words} className="problem">
          {words}
        </p>
      ))}
      <ul className="meanings">
        {effects.changes.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
    </section>
  )
}

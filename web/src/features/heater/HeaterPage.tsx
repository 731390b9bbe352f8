import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { useDeferredValue, useState } from 'react'
import { useParams } from 'react-router'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { ratings } from '../../api/queries'
import type { CallRatings, HeaterAnswer, HeaterAsked } from '../../api/schema.gen'
import { PlainRow, Row } from '../../entities/sheet/Findings'
import { WantedList } from '../../entities/sheet/WantedList'
import { Arithmetic } from '../../shared/Arithmetic'
import { FrameTitle } from '../../shared/FrameTitle'
import { useKept } from '../../shared/kept'
import { Failed, Loading } from '../../shared/states'
import { type Draft, draftFrom, kitOf } from './heater'
import { HeaterForm } from './HeaterForm'

/** Electric heat to be replaced: how large it is, which kit matches, and what the circuit says to it. */
export default function HeaterPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(ratings(callId))
  if (data) return <Heater key={callId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the heater’s circuit" />
}

const matchOf = (callId: string, version: string, told: HeaterAsked) =>
  queryOptions({
    queryKey: ['heater', callId, version, told],
    queryFn: () => answered(api.POST('/api/calls/{call_id}/heater-match', { params: { path: { call_id: callId } }, body: told })),
  })

function Heater({ data }: { data: CallRatings }) {
  const callId = data.call.id
  const heated = data.supplies.find((one) => one.sheet.plate.use === 'heat') ?? data.supplies[0]
  const [draft, setDraft] = useKept<Draft>(`heater of ${callId}`, draftFrom(heated))
  const [fresh, setFresh] = useState(0)
  const supply = data.supplies.find((one) => one.source === draft.source) ?? heated
  const told = { old: draft.old, wanted: draft.wanted, kit: kitOf(draft), source: supply?.source ?? '' }
  const version = supply?.version ?? ''
  // The answer to what stood there before stays while the next is worked out; it is never what is put on the sheet.
  const found = useQuery({ ...matchOf(callId, version, useDeferredValue(told)), placeholderData: keepPreviousData })
  const client = useQueryClient()
  const keep = useMutation({
    mutationFn: async () => {
      const { sheet } = await client.fetchQuery(matchOf(callId, version, told))
      return sheet
        ? answered(
            api.PUT('/api/calls/{call_id}/ratings/{source}', {
              params: { path: { call_id: callId, source: told.source }, query: { seen: version } },
              body: sheet,
            }),
          )
        : null
    },
    onSuccess: (kept) => (kept ? hold(client, ratings(callId).queryKey, kept) : undefined),
  })
  return (
    <div className="page heater-page">
      <FrameTitle title={`Heater of ${data.call.equipment_name}`}>
        <span className="grow title-words">
          <b>Replace the heater</b> <span>{data.call.equipment_name}</span>
        </span>
      </FrameTitle>
      {found.data ? <Answer answer={found.data} /> : found.error ? null : <Loading what="the match" />}
      {found.error ? (
        <p className="problem" role="alert">
          {messageOf(found.error, 'This could not be judged: look at the numbers again.')}
        </p>
      ) : null}
      {found.data?.sheet ? (
        <p className="row-of-buttons">
          <Button type="primary" disabled={keep.isPending} onClick={() => keep.mutate()}>
            Put the kit on the ratings sheet
          </Button>
          {keep.data ? <span className="quiet">It is on the sheet.</span> : null}
        </p>
      ) : null}
      {keep.error ? (
        <p className="problem" role="alert">
          {messageOf(keep.error, 'It was not kept: try again.')}
        </p>
      ) : null}
      <HeaterForm
        key={fresh}
        supplies={data.supplies}
        draft={draft}
        set={setDraft}
        startOver={() => {
          setDraft(draftFrom(supply))
          setFresh(fresh + 1)
        }}
      />
      <p className="quiet">
        Only a kit that the air handler’s maker lists for it may go in. Lock out every supply and prove it dead before the old one comes out.
      </p>
    </div>
  )
}

function Answer({ answer }: { answer: HeaterAnswer }) {
  const wrong = answer.matches.filter((one) => one.status === 'not_met').length
  const open = answer.matches.filter((one) => one.status === 'cannot_tell').length
  return (
    <section aria-label="How it matches" className="heater-answer">
      <p className="rated-sum">
        <strong>
          {answer.matches.length === 0
            ? answer.old_words
            : wrong
              ? `${wrong} not met${open ? `, ${open} not judged yet` : ''}`
              : open
                ? `Nothing against it yet, ${open} not judged`
                : 'The kit matches'}
        </strong>
      </p>
      {answer.matches.length ? <p className="quiet">{answer.old_words}</p> : null}
      {answer.old ? <Arithmetic worked={answer.old} /> : null}
      <ul className="findings">
        {answer.matches.map((one) => (
          <PlainRow key={one.label} found={one} unworked="No arithmetic: compared as read." />
        ))}
      </ul>
      {answer.findings.length ? (
        <details className="standing">
          <summary>
            Its circuit with the kit in it <span className="num">{answer.findings.filter((one) => one.status === 'not_met').length} not met</span>
          </summary>
          <ul className="findings">
            {answer.findings.map((one, i) => (
              <Row key={`${one.rule} ${one.about} ${i}`} finding={one} />
            ))}
          </ul>
        </details>
      ) : null}
      {answer.wanted.length ? <WantedList title="What the circuit should be" list={answer.wanted} empty="" /> : null}
    </section>
  )
}

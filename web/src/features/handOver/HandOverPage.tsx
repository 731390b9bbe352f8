import { useQueryClient } from '@tanstack/react-query'
import { Button, Input, Select } from 'antd'
import { Link } from 'react-router'

import { messageOf } from '../../api/client'
import { whenKept } from '../../api/held'
import type { CallRepair } from '../../api/schema.gen'
import { useFiling } from '../../entities/call/useFiling'
import { useNotes } from '../../entities/repair/useNotes'
import { type Repaired, WithRepair } from '../../entities/repair/WithRepair'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'
import { useKeptText } from '../../shared/useKeptText'
import { DeclinedList } from './DeclinedList'
import { OrderList } from './OrderList'
import { PhotoList } from './PhotoList'

type Quote = NonNullable<CallRepair['notes']['quote']>

/** What is handed over: the sheets, what was done, what is still open, and what was declined. */
export default function HandOverPage() {
  return <WithRepair what="the hand-over" Page={Shown} />
}

const QUOTES: { value: Quote; label: string }[] = [
  { value: 'none', label: 'None' },
  { value: 'waiting', label: 'Waiting' },
  { value: 'accepted', label: 'Accepted' },
  { value: 'declined', label: 'Declined' },
]

const SHEETS = [
  ['customer', 'Customer’s page'],
  ['technical', 'Technical sheet'],
  ['electrician', 'Electrician’s sheet'],
  ['tag', 'Tag to hang'],
  ['all', 'All in one'],
] as const

function Shown({ callId, data }: Repaired) {
  const { notes, call, plan, may_change: mayChange } = data
  const { change, clash } = useNotes(callId, data)
  const done = useKeptText(notes.work_done ?? '', (text, refused) => change((all) => ({ ...all, work_done: text }), refused))
  const zone = encodeURIComponent(Intl.DateTimeFormat().resolvedOptions().timeZone || 'UTC')
  const sheets = SHEETS.map(([kind, name]) => [name, `/api/calls/${callId}/report?sheet=${kind}&zone=${zone}`] as const)
  const client = useQueryClient()
  // Sheets and files say what is kept: one that is touched while something is on its way there opens once it has arrived.
  const openKept = (event: React.MouseEvent<HTMLElement>) => {
    const link = (event.target as Element).closest('a')
    if (!link || !client.isMutating()) return
    event.preventDefault()
    const { href } = link
    const place = link.target ? window.open('', link.target) : window
    void whenKept(client).then(() => place?.location.assign(href))
  }
  return (
    <div className="page hand-over">
      <FrameTitle title={`Hand over ${call.equipment_name}`}>
        <span className="grow title-words">
          <b>Hand over</b> <span>{call.equipment_name}</span>
        </span>
      </FrameTitle>
      <Clash
        {...clash}
        seeTheirs={() => {
          done.letGo()
          clash.seeTheirs()
        }}
      />
      <section aria-label="Sheets" onClickCapture={openKept}>
        <h2>Sheets, to print or to send</h2>
        <div className="row-of-buttons">
          {sheets.map(([name, href], i) => (
            <a key={name} className={i ? 'plain-button' : 'accent-button'} href={href} target="_blank" rel="noreferrer">
              {name}
            </a>
          ))}
        </div>
        <div className="row-of-buttons">
          <a className="plain-button" href={`/api/calls/${callId}/readings`} download>
            Readings, CSV
          </a>
          <a className="plain-button" href={`/api/calls/${callId}/job`} download>
            Job file
          </a>
          {call.return_on ? (
            <a className="plain-button" href={`/api/calls/${callId}/returns`} download>
              Return visit, for a calendar
            </a>
          ) : null}
        </div>
      </section>
      <section aria-label="What was done">
        <h2>What was done</h2>
        <Input.TextArea
          aria-label="What was done"
          autoSize={{ minRows: 3 }}
          maxLength={2000}
          disabled={!mayChange}
          placeholder="In your own words, a line for each thing: the customer reads it"
          value={done.text}
          onChange={(event) => done.type(event.target.value)}
          onBlur={done.flush}
        />
      </section>
      <OrderList
        plan={plan}
        orders={notes.orders ?? []}
        mayChange={mayChange}
        change={(next) => change((all) => ({ ...all, orders: next(all.orders ?? []) }))}
      />
      <section aria-label="Quote">
        <h2>Quote</h2>
        <Select<Quote>
          aria-label="How far the quote is"
          size="large"
          virtual={false}
          popupMatchSelectWidth={false}
          disabled={!mayChange}
          value={notes.quote ?? 'none'}
          options={QUOTES}
          onChange={(quote) => change((all) => ({ ...all, quote }))}
        />
      </section>
      <DeclinedList
        declined={notes.declined ?? []}
        mayChange={mayChange}
        change={(next) => change((all) => ({ ...all, declined: next(all.declined ?? []) }))}
      />
      <PhotoList callId={callId} mayChange={mayChange} />
      <Close callId={callId} data={data} />
    </div>
  )
}

const LEFT = { open: 'not proven yet', proven: 'proven', not_proven: 'left as not proven' }

/** The call is closed here once everything is put back and the proof was left one way or the other. */
function Close({ callId, data: { call, notes } }: { callId: string; data: CallRepair }) {
  const me = usePerson()
  const { change } = useFiling(callId)
  return (
    <section aria-label="Close the call">
      <h2>Close the call</h2>
      <p>
        The repair is <b>{LEFT[notes.proof?.outcome ?? 'open']}</b>.{' '}
        <Link className="text-link" to={`/calls/${callId}/prove`}>
          Prove
        </Link>
      </p>
      {change.error ? (
        <p className="problem" role="alert">
          {messageOf(change.error, 'It was not closed: try again.')}
        </p>
      ) : null}
      <Button
        type="primary"
        size="large"
        disabled={!opensCalls(me) || call.status === 'done' || change.isSuccess}
        loading={change.isPending}
        onClick={() => change.mutate({ status: 'done' })}
      >
        {call.status === 'done' || change.isSuccess ? 'Closed' : 'Close the call'}
      </Button>
    </section>
  )
}

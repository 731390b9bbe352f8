import { Button, Checkbox, Input, Radio } from 'antd'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'
import { percent } from '../../entities/reading/words'
import { DayField } from '../../shared/DayField'

type Item = CallRepair['plan']['items'][number]
type Question = NonNullable<Item['question']>
type Chosen = NonNullable<CallRepair['notes']['chosen']>[string]

type Props = {
  item: Item
  chosen: Chosen | null
  done: readonly string[]
  mayChange: boolean
  tick: (line: string) => void
  choose: (question: string, chosen: Chosen) => void
}

/** One repair: what is done and why, who may, what practitioners differ about, what else to look at, what to bring. */
export function RepairCard({ item, chosen, done, mayChange, tick, choose }: Props) {
  return (
    <section className={`repair-item ${item.is_sure ? 'is-sure' : ''}`} aria-label={item.because}>
      <p className="quiet">
        {item.because}
        {item.probability === null ? ' · seen: it asks for this by itself' : item.is_sure ? ' · found' : ` · ${percent(item.probability)}, if it is this`}
      </p>
      <h2>{item.does}</h2>
      <p>{item.why}</p>
      {item.never ? <p className="caution">{item.never}</p> : null}
      {item.by === 'electrician' ? <p className="status waiting">An electrician’s work, unless you are licensed for it</p> : null}
      {item.question ? <Choice question={item.question} chosen={chosen} mayChange={mayChange} choose={choose} /> : null}
      {item.inspects.length ? (
        <>
          <h3>Also inspect</h3>
          <ul className="work-list">
            {item.inspects.map((line) => (
              <li key={line}>
                <Checkbox checked={done.includes(line)} disabled={!mayChange} onChange={() => tick(line)}>
                  {line}
                </Checkbox>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      {item.matches.length ? (
        <>
          <h3>Replacement must match</h3>
          <dl className="wanted">
            {item.matches.map((one) => (
              <div key={one.what}>
                <dt>{one.what}</dt>
                <dd>
                  <b>{one.answer}</b>
                  <span className="quiet">{one.source}</span>
                </dd>
              </div>
            ))}
          </dl>
        </>
      ) : null}
    </section>
  )
}

const EMPTY: Omit<Chosen, 'way'> = { reason: '', tags: false, breaker_lock: false, return_on: null }

/** Where practitioners differ: the usual way first, and what another one asks before it is kept. */
function Choice({ question, chosen, mayChange, choose }: { question: Question; chosen: Chosen | null; mayChange: boolean; choose: Props['choose'] }) {
  const usual = question.ways[0]?.key ?? ''
  const [draft, setDraft] = useState<Chosen>(chosen ?? { way: usual, ...EMPTY })
  const way = question.ways.find((one) => one.key === draft.way)
  const asks = way?.asks ?? []
  const set = (more: Partial<Chosen>) => setDraft({ ...draft, ...more })
  const pick = (key: string) => {
    const next = { ...draft, way: key }
    setDraft(next)
    // The usual way needs no more; another one is kept once what it asks is said.
    if (!question.ways.find((one) => one.key === key)?.asks?.length) choose(question.key, { way: key, ...EMPTY })
  }
  return (
    <fieldset className="choices" aria-label={question.asked}>
      <legend>{question.asked}</legend>
      <Radio.Group
        vertical
        disabled={!mayChange}
        value={draft.way}
        onChange={(event) => pick(event.target.value as string)}
        options={question.ways.map((one) => ({
          value: one.key,
          label: (
            <>
              {one.words}
              {one.key === usual ? ' (usual)' : ''} <span className="quiet">{one.when}</span>
            </>
          ),
        }))}
      />
      <p className="quiet">{question.why}</p>
      {asks.length ? (
        <div className="asked-first">
          {asks.includes('reason') ? (
            <Input
              aria-label="Why not the usual way"
              placeholder="Why not the usual way"
              maxLength={300}
              disabled={!mayChange}
              value={draft.reason ?? ''}
              onChange={(event) => set({ reason: event.target.value })}
            />
          ) : null}
          {asks.includes('tags') ? (
            <Checkbox checked={draft.tags ?? false} disabled={!mayChange} onChange={(event) => set({ tags: event.target.checked })}>
              Tags hang at both ends
            </Checkbox>
          ) : null}
          {asks.includes('breaker_lock') ? (
            <Checkbox checked={draft.breaker_lock ?? false} disabled={!mayChange} onChange={(event) => set({ breaker_lock: event.target.checked })}>
              A lock is on the breaker
            </Checkbox>
          ) : null}
          {asks.includes('return') ? (
            <DayField
              label="When somebody comes back"
              fromToday
              disabled={!mayChange}
              value={draft.return_on ?? null}
              set={(return_on) => set({ return_on })}
            />
          ) : null}
          <Button type="primary" disabled={!mayChange} onClick={() => choose(question.key, draft)}>
            Keep this choice
          </Button>
        </div>
      ) : null}
    </fieldset>
  )
}

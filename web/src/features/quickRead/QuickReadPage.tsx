import { keepPreviousData, queryOptions, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Checkbox, Input } from 'antd'
import { useState } from 'react'
import { useNavigate } from 'react-router'

import { answered, api, RequestFailed } from '../../api/client'
import { systems } from '../../api/queries'
import type { AskedVolts, Diagnosis, KnownSystem, QuickAnswer, QuickRead } from '../../api/schema.gen'
import { StopView } from '../../entities/answer/StopView'
import { percent, rangesWords } from '../../entities/reading/words'
import { PickField } from '../../shared/fields'
import { FrameTitle } from '../../shared/FrameTitle'
import { numberOf } from '../../shared/numbers'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'

const meaningOf = (told: QuickRead) =>
  queryOptions({
    queryKey: ['quick-read', told],
    queryFn: () => answered(api.POST('/api/quick-read', { body: told })),
    staleTime: Infinity,
  })

/** Before any call exists: a system, the numbers at the unit, and at once what they can mean. */
export default function QuickReadPage() {
  const { data, error, refetch } = useQuery(systems)
  return (
    <div className="page">
      <FrameTitle title="Quick read" />
      {data ? <Numbers known={data} /> : error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the systems" />}
    </div>
  )
}

function Numbers({ known }: { known: KnownSystem[] }) {
  const usual = known.find((one) => one.key === 'split_phase_120_240') ?? known[0]
  const [key, setKey] = useState(usual?.key ?? '')
  const [connected, setConnected] = useState(true)
  const [texts, setTexts] = useState<Record<string, string>>({})
  const system = known.find((one) => one.key === key)
  const asked = system?.asked ?? []
  const volts = Object.fromEntries(
    asked.flatMap(({ pair }) => {
      const { value } = numberOf(texts[pair] ?? '')
      return value === null ? [] : [[pair, value]]
    }),
  )
  const why = asked.map(({ pair }) => numberOf(texts[pair] ?? '').why).find((one) => one)
  const told = { system: key, load_connected: connected, volts }
  // While the numbers are being read the meaning of those before stays, so that nothing jumps; it is never what is kept.
  const { data, error } = useQuery({ ...meaningOf(told), enabled: Object.keys(volts).length > 0, placeholderData: keepPreviousData })
  return (
    <>
      <div className="quick-top">
        <PickField label="System" value={key} options={known.map((one) => [one.key, one.label] as const)} set={setKey} />
        <Checkbox checked={connected} onChange={(event) => setConnected(event.target.checked)}>
          Load connected, unit calling
        </Checkbox>
      </div>
      <p className="quiet">At the unit’s line terminals, the meter proved on a known live source.</p>
      <div className="quick-numbers">
        {asked.map((one) => (
          <PairField key={`${key} ${one.pair}`} asked={one} text={texts[one.pair] ?? ''} type={(text) => setTexts({ ...texts, [one.pair]: text })} />
        ))}
      </div>
      {why ? (
        <p className="problem" role="alert">
          {why}
        </p>
      ) : null}
      {error ? <p className="problem">{error instanceof RequestFailed ? error.problem.message : 'The numbers could not be read.'}</p> : null}
      {Object.keys(volts).length && data ? (
        <Meaning answer={data} told={told} />
      ) : (
        <p className="page-state">Type the numbers as the meter shows them: what they can mean stands here at once.</p>
      )}
    </>
  )
}

function PairField({ asked, text, type }: { asked: AskedVolts; text: string; type: (text: string) => void }) {
  const [a = '', b = ''] = asked.pair.split('-')
  const usual = asked.healthy_volts === null ? 'nothing firm' : `${Math.round(asked.healthy_volts)} V`
  return (
    <label className="quick-number">
      <span>
        {a} to {b === 'G' ? 'ground' : b} <span className="quiet">healthy {usual}</span>
      </span>
      <Input
        className="num"
        size="large"
        inputMode="decimal"
        autoComplete="off"
        value={text}
        placeholder="0.0"
        suffix="V~"
        status={numberOf(text).why ? 'error' : ''}
        aria-invalid={numberOf(text).why !== ''}
        onChange={(event) => type(event.target.value)}
      />
    </label>
  )
}

function Meaning({ answer, told }: { answer: QuickAnswer; told: QuickRead }) {
  const { diagnosis } = answer
  return (
    <div aria-live="polite">
      {diagnosis.stop ? <StopView stop={diagnosis.stop} /> : null}
      <section className="verdict" aria-label="What it can mean">
        <p className="quiet">What it can mean</p>
        <ol className="meanings">
          {answer.meanings.slice(0, 6).map((one) => (
            <li key={one.words}>
              <b className="num share">{percent(one.probability)}</b> {one.words}
            </li>
          ))}
        </ol>
      </section>
      <Decides diagnosis={diagnosis} />
      <Keep told={told} />
    </div>
  )
}

/** The single reading that decides most. */
function Decides({ diagnosis: { next_test: test, verdict } }: { diagnosis: Diagnosis }) {
  if (!test) return <p className="caution">{verdict.advice}</p>
  return (
    <section className="next-test" aria-label="What decides">
      <p className="quiet">What decides most now</p>
      <h2>
        {test.words.map((words) => (
          <span key={words}>{words}</span>
        ))}
      </h2>
      <p className="quiet">State: {test.state}</p>
      <ul className="expectations always">
        {test.predictions.slice(0, 4).map((one) => (
          <li key={one.suspects.join()}>
            <b className="num">{rangesWords(one.ranges[0] ?? [], test.measurements[0]?.place.kind === 'around' ? 'A' : 'V')}</b> {one.words[0]}
          </li>
        ))}
      </ul>
      <p className="caution">{test.caution}</p>
    </section>
  )
}

/** Opens a call with the numbers as they stand in the fields. */
function Keep({ told }: { told: QuickRead }) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const me = usePerson()
  const keep = useMutation({
    mutationFn: async (technicianId: string) => {
      const { job } = await client.fetchQuery(meaningOf(told))
      const now = new Date()
      const call = {
        id: crypto.randomUUID(),
        technician_id: technicianId,
        complaint: `Quick read, ${now.toLocaleTimeString(undefined, { hour: 'numeric', minute: '2-digit' })}`,
        starts_at: now.toISOString(),
        panel_may_be_opened: false,
        visit: 'service' as const,
        told: [],
        new_equipment: {
          equipment_id: crypto.randomUUID(),
          equipment_name: 'Not named yet',
          circuit: '',
          site_id: crypto.randomUUID(),
          site_name: `Not named yet, ${now.toLocaleDateString()}`,
          site_address: '',
        },
      }
      return answered(api.POST('/api/imported-calls', { body: { call, job: JSON.stringify(job) } }))
    },
    onSuccess: (call) => {
      void client.invalidateQueries({ queryKey: ['calls'] })
      void client.invalidateQueries({ queryKey: ['sites'] })
      void navigate(`/calls/${call.id}`)
    },
  })
  if (!opensCalls(me)) return null
  return (
    <p className="keep">
      <Button type="primary" disabled={keep.isPending} onClick={() => keep.mutate(me.id)}>
        {keep.isPending ? 'Keeping …' : 'Keep as a call'}
      </Button>
      {keep.error ? <span className="problem">{keep.error instanceof RequestFailed ? keep.error.problem.message : 'The call could not be kept.'}</span> : null}
    </p>
  )
}

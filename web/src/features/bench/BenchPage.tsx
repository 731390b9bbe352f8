import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Select } from 'antd'
import { useState } from 'react'
import { Link } from 'react-router'

import { answered, api, RequestFailed } from '../../api/client'
import { hold } from '../../api/held'
import { benchTools, calls, ratings } from '../../api/queries'
import type { BenchTool } from '../../api/schema.gen'
import { Arithmetic } from '../../shared/Arithmetic'
import { PickField, TypedNumber } from '../../shared/fields'
import { FrameTitle } from '../../shared/FrameTitle'
import { signedNumberOf } from '../../shared/numbers'
import { Failed, Loading } from '../../shared/states'

/** Calculations without a call: a line each to fill, the answer as one types. */
export default function BenchPage() {
  const { data, error, refetch } = useQuery(benchTools)
  const groups = [...new Set(data?.map((one) => one.group))]
  return (
    <div className="page ratings">
      <FrameTitle title="Calculators">
        <span className="grow">Calculators</span>
        <button type="button" className="head-plain" onClick={() => window.print()}>
          Print
        </button>
      </FrameTitle>
      {data ? null : error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the calculators" />}
      <p className="page-links">
        <Link to="/quick-read">Quick read: what the volts at the unit can mean</Link>
      </p>
      {groups.map((group) => (
        <section key={group} aria-label={group}>
          <h2 className="day">{group}</h2>
          {data
            ?.filter((one) => one.group === group)
            .map((tool) => (
              <Line key={tool.key} tool={tool} />
            ))}
        </section>
      ))}
    </div>
  )
}

function Line({ tool }: { tool: BenchTool }) {
  const [texts, setTexts] = useState<Record<string, string>>(
    Object.fromEntries(tool.fields.map((one) => [one.key, one.usual === null || one.usual === undefined ? '' : String(one.usual)])),
  )
  const [touched, setTouched] = useState(false)
  const type = (key: string, text: string) => {
    setTexts({ ...texts, [key]: text })
    setTouched(true)
  }
  const values = Object.fromEntries(tool.fields.map((one) => [one.key, valueOf(texts[one.key] ?? '', one.choices.length > 0)]))
  const { data, error } = useQuery({
    queryKey: ['bench', tool.key, values],
    queryFn: () => answered(api.POST('/api/bench/{key}', { params: { path: { key: tool.key } }, body: values })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    retry: false,
  })
  const answer = error ? null : data
  return (
    <details className="bench-line">
      <summary>
        <strong>{tool.label}</strong>
        <span className={`bench-words ${touched ? (answer?.tone ?? '') : 'quiet'}`} aria-live="polite">
          {touched ? '' : 'For example: '}
          {error ? (error instanceof RequestFailed ? error.problem.message : 'No answer: try again.') : (answer?.words ?? '…')}
        </span>
      </summary>
      <div className="part-fields">
        {tool.fields.map((field) => {
          const text = texts[field.key] ?? ''
          return field.choices.length ? (
            <PickField
              key={field.key}
              label={field.label}
              value={text}
              options={field.choices.map((one) => [one, one] as const)}
              set={(one) => type(field.key, one)}
            />
          ) : (
            <TypedNumber
              key={field.key}
              label={field.label}
              unit={field.unit}
              text={text}
              type={(typed) => type(field.key, typed)}
              placeholder={field.may_be_empty ? 'may be empty' : ''}
              isBad={signedNumberOf(text).why !== ''}
            />
          )
        })}
      </div>
      {answer ? <Arithmetic worked={answer.worked} /> : null}
      <p className="quiet">{tool.source}.</p>
      {answer ? <Keep tool={tool.key} values={values} /> : null}
    </details>
  )
}

function valueOf(text: string, choice: boolean): string | number | null {
  if (text.trim() === '') return null
  return choice ? text : (signedNumberOf(text).value ?? text)
}

/** Keeps a calculation to one of the calls. */
function Keep({ tool, values }: { tool: string; values: Record<string, string | number | null> }) {
  const client = useQueryClient()
  const { data } = useInfiniteQuery(calls())
  const [chosen, setChosen] = useState<string | null>(null)
  const keep = useMutation({
    mutationFn: (callId: string) =>
      answered(api.POST('/api/calls/{call_id}/kept', { params: { path: { call_id: callId } }, body: { id: crypto.randomUUID(), tool, values } })),
    onSuccess: (found) => hold(client, ratings(found.call.id).queryKey, found),
  })
  return (
    <p className="keep">
      <Select
        aria-label="Call to keep it to"
        placeholder="Keep to a call …"
        virtual={false}
        popupMatchSelectWidth={false}
        showSearch={{ optionFilterProp: 'label' }}
        value={chosen}
        options={data?.pages.flatMap((page) => page.calls).map((one) => ({ value: one.id, label: `${one.site_name}, ${one.equipment_name}` })) ?? []}
        onChange={setChosen}
      />
      <Button disabled={!chosen || keep.isPending} onClick={() => chosen && keep.mutate(chosen)}>
        Keep
      </Button>
      <span aria-live="polite">{keep.isSuccess ? 'Kept.' : keep.error ? 'It could not be kept: try again.' : ''}</span>
    </p>
  )
}

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useReducer, useState } from 'react'
import { Link, useParams } from 'react-router'

import { answered, api } from '../../api/client'
import { workbench } from '../../api/queries'
import type { NextTest, Workbench } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import { Contradictions, NextTestView, SuspectsView, VerdictView } from './Answer'
import { EntryPanel } from './EntryPanel'
import { ReadingsView } from './ReadingsView'
import { atRest, measurementOf, reduce, valueOf } from './setup'
import { StripView } from './StripView'
import { useEntries } from './useEntries'
import { useWide } from './useWide'

export default function WorkbenchPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(workbench(callId))
  if (data) return <Bench key={callId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the call" />
}

function Bench({ data }: { data: Workbench }) {
  const { call, circuit, strip, diagnosis, readings } = data
  const last = readings.at(-1)?.reading.measurement.open_switches ?? []
  const [setup, dispatch] = useReducer(reduce, { ...atRest, open: last })
  const entries = useEntries(call.id)
  const wide = useWide()
  const test = diagnosis.next_test
  // A card of several readings is gone from the answer once the first is recorded; its expectations still hold.
  const [asking, setAsking] = useState<NextTest | null>(null)

  const record = (confirmed: boolean) => {
    const measurement = measurementOf(setup)
    const value = valueOf(setup)
    if (!measurement || value === null) return
    const unit = measurement.place.kind === 'around' ? 'A' : 'V'
    entries.add({ id: crypto.randomUUID(), measurement, value, unit }, confirmed, () => {
      dispatch({ do: 'recorded' })
      // On a phone the answer lies above the strip: show it once a test is through.
      if (!wide && setup.asked.length <= 1) window.scrollTo({ top: 0 })
    })
  }
  const accept = () => {
    if (!test) return
    entries.forget()
    setAsking(test)
    dispatch({ do: 'accept', measurements: test.measurements })
  }
  useShortcuts({ undo: entries.canUndo ? entries.undo : null, accept: test ? accept : null })

  return (
    <div className="bench">
      <FrameTitle title={call.complaint}>
        <span className="grow title-words">
          <b>{call.site_name}</b> <span>{call.equipment_name}</span>
        </span>
        <button type="button" className="head-plain" disabled={!entries.canUndo} onClick={entries.undo} title="Ctrl+Z">
          Undo
        </button>
        <a className="head-plain" href={`/api/calls/${call.id}/job`} download>
          Job file
        </a>
      </FrameTitle>
      <div className="bench-answer">
        <VerdictView verdict={diagnosis.verdict} />
        <Contradictions list={diagnosis.contradictions} />
        {test ? <NextTestView test={test} accept={accept} accepted={setup.asked[0] === test.measurements[0]} /> : null}
      </div>
      <div className="bench-strip">
        <p className="call-line">
          {call.complaint} <span className="quiet">· {call.technician.name}</span>
        </p>
        <Link className="circuit-link" to={`/calls/${call.id}/circuit`}>
          Change the circuit
        </Link>
        <PanelChoice callId={call.id} allowed={call.panel_may_be_opened} />
        <StripView circuit={circuit} strip={strip} setup={setup} suspects={diagnosis.suspects} states={diagnosis.lanes} panelShut={!call.panel_may_be_opened} room={wide ? 240 : 186} dispatch={dispatch} />
      </div>
      <div className="bench-entry">
        <EntryPanel
          circuit={circuit}
          strip={strip}
          setup={setup}
          dispatch={dispatch}
          busy={entries.busy}
          problem={entries.problem}
          doubt={entries.doubt}
          record={record}
          takeBack={entries.forget}
          wide={wide}
          test={setup.asked.length ? asking : null}
        />
      </div>
      <div className="bench-rest">
        <SuspectsView suspects={diagnosis.suspects} />
        <ReadingsView readings={readings} correct={entries.correct} withdraw={entries.withdraw} />
        <p className="quiet">
          Never in place of the nameplate, the local code or a licensed electrician. Prove dead with a proved meter before hands go in.
        </p>
      </div>
    </div>
  )
}

function PanelChoice({ callId, allowed }: { callId: string; allowed: boolean }) {
  const client = useQueryClient()
  const change = useMutation({
    mutationFn: (panel_may_be_opened: boolean) =>
      answered(api.PATCH('/api/calls/{call_id}', { params: { path: { call_id: callId } }, body: { panel_may_be_opened } })),
    onSuccess: (data) => client.setQueryData(workbench(callId).queryKey, data),
  })
  return (
    <label className="panel-choice">
      <input type="checkbox" checked={allowed} disabled={change.isPending} onChange={(event) => change.mutate(event.target.checked)} />
      Panel may be opened <span className="quiet">(only if licensed for it)</span>
      {change.error ? <span className="problem">{change.error.message}</span> : null}
    </label>
  )
}

/** Ctrl+Z takes the last entry back; n sets up the next test. Neither acts while a field is being typed in. */
function useShortcuts({ undo, accept }: { undo: (() => void) | null; accept: (() => void) | null }) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement && event.target.value !== ''
      if ((event.ctrlKey || event.metaKey) && event.key === 'z' && undo && !typing) {
        event.preventDefault()
        undo()
      } else if (event.key === 'n' && !event.ctrlKey && !event.metaKey && accept && !typing) {
        event.preventDefault()
        accept()
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [undo, accept])
}

import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useReducer, useState } from 'react'
import { Link, useParams } from 'react-router'

import { isUnreadable } from '../../api/client'
import { signs as signsQuery, workbench } from '../../api/queries'
import type { Look, NextTest, Workbench } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import { Contradictions, GuardsView, HandoverView, NextTestAwaited, NextTestView, StopView, SuspectsView, VerdictView } from './Answer'
import { EntryPanel } from './EntryPanel'
import { ToldView } from './LookChoice'
import { QuickLine } from './QuickLine'
import { ScopeView } from './ScopeView'
import { atRest, heldOf, isAsked, measurementOf, reduce, unitOf, valueOf } from './setup'
import { StripView } from './StripView'
import { TimeLine } from './TimeLine'
import { useEntries } from './useEntries'
import { useOthers } from './useOthers'
import { useWide } from './useWide'

const ShareDialog = lazy(() => import('./ShareDialog'))

export default function WorkbenchPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(workbench(callId))
  if (data) return <Bench key={callId} data={data} />
  if (!error) return <Loading what="the call" />
  return (
    <Failed error={error} retry={() => void refetch()}>
      {isUnreadable(error) ? (
        <a className="plain-button" href={`/api/calls/${callId}/job`} download>
          Download it
        </a>
      ) : null}
    </Failed>
  )
}

function Bench({ data }: { data: Workbench }) {
  const { call, circuit, strip, diagnosis, readings, looks, treads } = data
  const { data: signs = [] } = useQuery(signsQuery)
  const panelShut = !call.scope.panel_may_be_opened && !call.scope.panel_volts_only
  const last = readings.at(-1)?.reading.measurement
  const [setup, dispatch] = useReducer(reduce, { ...atRest, open: last?.open_switches ?? [], hands: heldOf(last?.hands) })
  const entries = useEntries(call.id)
  useOthers(call.id)
  const wide = useWide()
  const [sharing, setSharing] = useState(false)
  const test = diagnosis.next_test
  // A card of several readings is gone from the answer once the first is recorded; its expectations still hold.
  const [asking, setAsking] = useState<NextTest | null>(null)

  const record = (confirmed: boolean) => {
    const measurement = measurementOf(setup)
    const value = valueOf(setup)
    if (!measurement || value === null) return
    entries.add({ id: crypto.randomUUID(), measurement, value, unit: unitOf(measurement) }, confirmed, () => {
      dispatch({ do: 'recorded' })
      // On a phone the answer lies above the strip: show it once a test is through.
      if (!wide && setup.asked.length <= 1) window.scrollTo({ top: 0 })
    })
  }
  const look = (found: Omit<Look, 'id'>) => entries.add({ id: crypto.randomUUID(), ...found }, false, () => undefined)
  const accept = () => {
    if (!test || test.look) return
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
      </FrameTitle>
      <div className="bench-answer">
        {diagnosis.stop ? <StopView stop={diagnosis.stop} /> : null}
        <VerdictView verdict={diagnosis.verdict} stop={diagnosis.stop} />
        {data.unread.map((one) => (
          <p key={one.reading_id} className="problem" role="alert">
            One reading here can no longer be read and is left out ({one.why}).
            {data.may_change ? (
              <button type="button" className="plain-button" disabled={entries.busy} onClick={() => entries.drop(one.reading_id)}>
                Withdraw it
              </button>
            ) : null}
          </p>
        ))}
        <Contradictions list={diagnosis.contradictions} />
        {test && data.may_change ? <NextTestView test={test} accept={accept} accepted={isAsked(setup, test)} busy={entries.busy} look={look} /> : null}
        {diagnosis.planning ? <NextTestAwaited /> : null}
        {diagnosis.handover ? <HandoverView test={diagnosis.handover} /> : null}
        <GuardsView guards={diagnosis.guards} />
      </div>
      <div className="bench-strip">
        <p className="call-line">
          {call.complaint}{' '}
          <span className="quiet">
            · {call.technician.name}
            {data.shared_with.length ? ` and ${data.shared_with.length} more` : ''}
            {data.may_change ? '' : ' · you may look, not change'}
          </span>
        </p>
        <div className="call-setup">
          <nav className="call-links" aria-label="For this call">
            {data.may_change ? <Link to={`/calls/${call.id}/circuit`}>Change the circuit</Link> : null}
            <Link to={`/calls/${call.id}/ratings`}>Ratings</Link>
            <Link to={`/calls/${call.id}/what-if`}>What if …</Link>
            <Link to={`/sites/${call.site_id}/feeds`}>Which breaker?</Link>
            <a href={`/api/calls/${call.id}/job`} download>
              Job file
            </a>
            {data.may_change ? (
              <button type="button" className="link-button" onClick={() => setSharing(true)}>
                Share
              </button>
            ) : null}
          </nav>
          {sharing ? (
            <Suspense>
              <ShareDialog data={data} close={() => setSharing(false)} />
            </Suspense>
          ) : null}
          <ScopeView callId={call.id} scope={call.scope} seen={data.versions.scope} mayChange={data.may_change} mayOpen={data.may_open_panels} />
          <ToldView signs={signs} told={looks.map((one) => one.look).filter((one) => !one.part && !one.zone)} busy={entries.busy} look={look} withdraw={entries.withdraw} />
        </div>
        <StripView circuit={circuit} strip={strip} setup={setup} suspects={diagnosis.suspects} states={diagnosis.lanes} panelShut={panelShut} looks={looks} treads={treads} room={wide ? 240 : 186} dispatch={dispatch} />
      </div>
      <div className="bench-entry" hidden={!data.may_change}>
        <EntryPanel
          circuit={circuit}
          strip={strip}
          setup={setup}
          signs={signs}
          look={look}
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
        <SuspectsView callId={call.id} suspects={diagnosis.suspects} />
        <fieldset className="bare" disabled={!data.may_change}>
          <TimeLine readings={readings} looks={looks} correct={entries.correct} withdraw={entries.withdraw} />
          {data.may_change ? <QuickLine callId={call.id} busy={entries.busy} send={(said, onDone) => entries.add(said, false, onDone)} /> : null}
        </fieldset>
        <p className="quiet">
          Never in place of the nameplate, the local code or a licensed electrician. Prove dead with a proved meter before hands go in.
        </p>
      </div>
    </div>
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

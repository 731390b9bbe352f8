import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useReducer, useRef, useState } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'

import { isUnreadable } from '../../api/client'
import { photos as photosQuery, signs as signsQuery, workbench } from '../../api/queries'
import type { Look, NextTest, Workbench } from '../../api/schema.gen'
import { StopView } from '../../entities/answer/StopView'
import { useEntries } from '../../entities/reading/useEntries'
import { rowsOf } from '../../entities/strip/rows'
import { atRest, heldOf, isAsked, isTaken, isWorthKeeping, readyOf, reduce, type Setup, textOf, unitOf } from '../../entities/strip/setup'
import { StripView } from '../../entities/strip/StripView'
import { FrameTitle } from '../../shared/FrameTitle'
import { keepIn, keptIn, useKept } from '../../shared/kept'
import { Panel } from '../../shared/Panel'
import { GROUND, partsOf } from '../../shared/point'
import { Failed, Loading } from '../../shared/states'
import { useWide } from '../../shared/useWide'
import { Contradictions, GuardsView, HandoverView, NextTestAwaited, NextTestView, SuspectsView, VerdictView } from './Answer'
import { EntryPanel } from './EntryPanel'
import { PlanAnswer } from './PlanAnswer'
import { QuickLine } from './QuickLine'
import { TimeLine } from './TimeLine'
import { UnsentList } from './UnsentList'
import { useInPlan } from './useInPlan'
import { useOthers } from './useOthers'

const WorkbenchTour = lazy(() => import('./WorkbenchTour'))
const Plots = lazy(() => import('./Plots'))

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
  const taken = usePhotosTaken(call.id)
  const panelShut = !call.scope.panel_may_be_opened && !call.scope.panel_volts_only
  const last = readings.at(-1)?.reading.measurement
  const kept = `set up in ${call.id}`
  // What stood here before, until it is set up again.
  const before = useRef(keptIn<Setup>(kept))
  const [setup, dispatch] = useReducer(reduce, null, () => {
    const left = keptIn<Setup>(kept)
    return left?.byHand ? left : { ...atRest, open: last?.open_switches ?? [], hands: heldOf(last?.hands) }
  })
  // What a hand set up and what is typed is still there after a look at the ratings, or another page.
  useEffect(() => keepIn(kept, isWorthKeeping(setup) ? setup : null), [kept, setup])
  const answer = useRef<HTMLDivElement>(null)
  const entries = useEntries(call.id, () => showTop(answer.current))
  useOthers(call.id)
  const wide = useWide()
  const [plots, setPlots] = useState(false)
  const [line, setLine] = useKept(`line of ${call.id}`, '')
  const [asked, setAsked] = useSearchParams()
  const inPlan = useInPlan(data)
  const test = inPlan ? (inPlan.left ? null : inPlan.node.test) : diagnosis.next_test
  // A card is gone from the answer once it is recorded; while it stands, what it says goes with its fields.
  const [asking, setAsking] = useState<NextTest | null>(null)

  const accept = (wanted: NextTest) => {
    entries.forget()
    setAsking(wanted)
    const left = before.current
    before.current = null
    const same = left && JSON.stringify(left.asked) === JSON.stringify(wanted.measurements)
    dispatch({ do: 'accept', measurements: wanted.measurements, ...(same ? { texts: left.texts } : {}) })
  }
  // Nor while something is typed: it would be lost. Nor under a stop: nothing is measured there unasked.
  const stop = inPlan ? inPlan.node.stop : diagnosis.stop
  const elsewhere = Boolean(stop) || setup.byHand || setup.asked.length > 0 || textOf(setup) !== '' || entries.busy || !data.may_change
  useSetUp(test, elsewhere, accept)

  const record = (confirmed: boolean) => {
    const said = readyOf(setup).map(({ measurement, value }) => ({ id: crypto.randomUUID(), measurement, value, unit: unitOf(measurement) }))
    if (!said.length) return
    entries.add(said, confirmed, () => dispatch({ do: 'recorded', asked: setup.asked, texts: setup.texts }))
  }
  const look = (found: Omit<Look, 'id'>) => entries.add([{ id: crypto.randomUUID(), ...found }], false, () => undefined)
  const watched = (values: readonly (number | null)[]) =>
    entries.add(
      (test?.measurements ?? []).flatMap((measurement, i) => {
        const value = values[i] ?? null
        return value === null ? [] : [{ id: crypto.randomUUID(), measurement, value, unit: unitOf(measurement) }]
      }),
      false,
      () => undefined,
    )
  useShortcuts({
    undo: entries.canUndo ? entries.undo : null,
    accept: test && isTaken(test) ? () => accept(test) : null,
    cancel: () => dispatch({ do: 'clear' }),
  })

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
      {asked.has('tour') ? (
        <Suspense>
          <WorkbenchTour close={() => setAsked({}, { replace: true })} />
        </Suspense>
      ) : null}
      <div ref={answer} className="bench-answer">
        {diagnosis.stop ? <StopView stop={diagnosis.stop} /> : null}
        {inPlan ? <PlanAnswer {...inPlan} /> : <VerdictView verdict={diagnosis.verdict} />}
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
        {test && data.may_change ? (
          <NextTestView
            test={test}
            nameOf={(id) => data.circuit.parts.find((one) => one.id === id)?.name ?? id}
            accept={() => accept(test)}
            accepted={isAsked(setup, test)}
            busy={entries.busy}
            isStopped={Boolean(stop)}
            look={look}
            watched={watched}
          />
        ) : null}
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
        <p className="call-line">
          <Link className="text-link scope-line" to={`/calls/${call.id}/call`}>
            {panelShut ? 'Panel stays closed' : call.scope.panel_may_be_opened ? 'Panel may be opened' : 'Volts only in the panel'} ·{' '}
            {WAYS[call.scope.way ?? 'fewest']}
          </Link>
        </p>
        <Panel what="drawing">
          <StripView
            circuit={circuit}
            strip={strip}
            setup={setup}
            suspects={diagnosis.suspects}
            states={diagnosis.lanes}
            panelShut={panelShut}
            looks={looks}
            treads={treads}
            photos={taken}
            room={wide ? 240 : 186}
            dispatch={dispatch}
          />
        </Panel>
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
          test={setup.asked.length ? asking : null}
        />
      </div>
      <div className="bench-rest">
        {data.may_change ? <QuickLine callId={call.id} text={line} setText={setLine} send={(text, said) => void entries.addLine(text, said)} /> : null}
        <UnsentList callId={call.id} pointWords={(point) => pointWordsOf(data, point)} changeLine={setLine} />
        <SuspectsView callId={call.id} suspects={diagnosis.suspects} />
        <fieldset className="bare" disabled={!data.may_change}>
          <Panel what="list of readings">
            <TimeLine readings={readings} looks={looks} correct={entries.correct} doubtOf={entries.doubtOf} withdraw={entries.withdraw} />
          </Panel>
        </fieldset>
        <details className="standing" onToggle={(event) => setPlots(event.currentTarget.open)}>
          <summary>Voltage profile and confidence, plotted</summary>
          {plots ? (
            <Suspense fallback={<Loading what="the plots" />}>
              <Panel what="chart">
                <Plots data={data} />
              </Panel>
            </Suspense>
          ) : null}
        </details>
        <p className="quiet">Never in place of the nameplate, the local code or a licensed electrician. Prove dead with a proved meter before hands go in.</p>
      </div>
    </div>
  )
}

function pointWordsOf({ strip }: Workbench, point: string): string {
  if (point === GROUND) return 'ground'
  const { lane } = partsOf(point)
  const row = rowsOf(strip).find((one) => Object.values(one.points).includes(point))
  return `${row?.marks[lane] ?? lane} at the ${row?.point_name ?? ''}`
}

const WAYS: Record<NonNullable<Workbench['call']['scope']['way']>, string> = {
  fewest: 'fewest readings',
  unit_back: 'from the unit back',
  source_out: 'from the source out',
}

/** Sets the next test up by itself as soon as it is known, unless a hand is doing something else. */
function useSetUp(test: NextTest | null, elsewhere: boolean, accept: (test: NextTest) => void) {
  const wanted = elsewhere || !test || !isTaken(test) ? null : test
  useEffect(() => {
    if (wanted) accept(wanted)
    // Only another test, or a hand that is free again, sets one up.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [wanted])
}

/** Shows the top of the answer, where stop and verdict stand, unless it is seen already. */
function showTop(answer: HTMLElement | null) {
  // Once what was answered stands on the page.
  requestAnimationFrame(() => {
    if (!answer) return
    const { top } = answer.getBoundingClientRect()
    const margin = parseFloat(getComputedStyle(answer).scrollMarginTop) || 0
    if (top < margin || top > window.innerHeight / 2) answer.scrollIntoView({ block: 'start' })
  })
}

const isField = (target: EventTarget | null) => target instanceof HTMLElement && /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)

/** Ctrl+Z takes the last entry back, n sets up the next test, / goes to the quick line, Esc clears what is set up. */
function useShortcuts({ undo, accept, cancel }: { undo: (() => void) | null; accept: (() => void) | null; cancel: () => void }) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const field = isField(event.target)
      const holdsText = field && (event.target as HTMLInputElement).value !== ''
      if ((event.ctrlKey || event.metaKey) && event.key === 'z' && undo && !holdsText) {
        event.preventDefault()
        undo()
      } else if (event.key === 'Escape') {
        if (field) (event.target as HTMLElement).blur()
        cancel()
      } else if (event.key === '/' && !holdsText) {
        event.preventDefault()
        document.querySelector<HTMLElement>('.quick-line input')?.focus()
      } else if (event.key === 'n' && !event.ctrlKey && !event.metaKey && !event.altKey && accept && !field) {
        event.preventDefault()
        accept()
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [undo, accept, cancel])
}

/** How many photos were taken at each part. */
function usePhotosTaken(callId: string): ReadonlyMap<string, number> {
  const { data } = useQuery(photosQuery(callId))
  const taken = new Map<string, number>()
  for (const { part } of data?.photos ?? []) if (part) taken.set(part, (taken.get(part) ?? 0) + 1)
  return taken
}

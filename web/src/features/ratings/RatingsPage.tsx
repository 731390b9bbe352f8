import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { useParams } from 'react-router'

import { ratings } from '../../api/queries'
import type { CallRatings, RatedSupply } from '../../api/schema.gen'
import { RatedSum } from '../../entities/sheet/Findings'
import { WantedList } from '../../entities/sheet/WantedList'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { Failed, Loading } from '../../shared/states'
import { KeptSums } from './KeptSums'
import { RatingsStrip } from './RatingsStrip'
import { SheetForm } from './SheetForm'
import { Staircase } from './Staircase'

/** What circuit and equipment require, against what is there and what was measured. */
export default function RatingsPage() {
  const { callId = '' } = useParams()
  const { data, error, refetch } = useQuery(ratings(callId))
  return (
    <div className="page ratings">
      <FrameTitle title="Ratings">
        <span className="grow title-words">
          <b>Ratings</b> <span>{data?.call.equipment_name}</span>
        </span>
        <button type="button" className="head-plain" onClick={() => window.print()}>
          Print
        </button>
      </FrameTitle>
      {data ? <Shown data={data} /> : error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the ratings" />}
    </div>
  )
}

function Shown({ data }: { data: CallRatings }) {
  return (
    <>
      <h1 className="print-only">
        Ratings: {data.call.site_name}, {data.call.equipment_name}, {new Date().toLocaleDateString()}
      </h1>
      {data.supplies.map((supply) => (
        <Supply key={supply.source} data={data} supply={supply} />
      ))}
      <Panel what="list of joints">
        <Staircase circuit={data.circuit} treads={data.treads} />
      </Panel>
      <Beside title="Not judged here" list={data.not_judged.map((one) => ({ head: '', words: one.what, clause: one.clause }))} />
      <KeptSums callId={data.call.id} kept={data.kept} />
      <p className="quiet">
        Not a certificate. The nameplate, the maker’s instructions and the local code come first; the authority having jurisdiction decides.
      </p>
    </>
  )
}

/** Opens the sheet where what is missing is filled in. */
function openSheet(section: HTMLElement | null) {
  const sheet = section?.querySelector<HTMLDetailsElement>('.sheet-form')
  if (!sheet) return
  sheet.open = true
  sheet.scrollIntoView({ block: 'start' })
  sheet.querySelector<HTMLElement>('summary')?.focus({ preventScroll: true })
}

function Supply({ data, supply }: { data: CallRatings; supply: RatedSupply }) {
  const section = useRef<HTMLElement>(null)
  return (
    <section ref={section} className="rated" aria-label={`Supply: ${supply.name}`}>
      {data.supplies.length > 1 ? <h2 className="day">On the {supply.name}</h2> : null}
      <RatedSum findings={supply.findings} edition={supply.sheet.edition} />
      <Panel what="drawing">
        <RatingsStrip circuit={data.circuit} source={supply.source} findings={supply.findings} fillIn={() => openSheet(section.current)} />
      </Panel>
      <SheetForm callId={data.call.id} supply={supply} />
      <WantedList title="What should be there" list={supply.wanted} empty="Fill in the plate, or its amps, below “What is known”." />
      <WantedList title="What this circuit may carry" list={supply.carries} empty="Fill in wires and breaker." />
      <WantedList title="What a replacement must match" list={supply.matches} empty="Nothing to replace is known." />
      <Beside title="Look at these too" list={supply.reminders.map((one) => ({ head: one.title, words: one.words, clause: one.clause }))} />
    </section>
  )
}

/** What stands beside the rules: reminders, and what no rule covers; each with its clause. */
function Beside({ title, list }: { title: string; list: readonly { head: string; words: string; clause: string }[] }) {
  if (list.length === 0) return null
  return (
    <details className="standing">
      <summary>
        {title} <span className="num">{list.length}</span>
      </summary>
      <ul className="beside-rules">
        {list.map((one) => (
          <li key={one.words}>
            {one.head ? <b>{one.head}: </b> : null}
            {one.words} <span className="quiet">{one.clause}</span>
          </li>
        ))}
      </ul>
    </details>
  )
}

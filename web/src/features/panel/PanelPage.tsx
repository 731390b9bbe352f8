import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'

import { feeds as feedsQuery } from '../../api/queries'
import type { Feeds, PanelAnswer, SiteFeeds } from '../../api/schema.gen'
import { useSiteMap } from '../../entities/siteMap/useSiteMap'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { Failed, Loading } from '../../shared/states'
import { BreakerForm } from './BreakerForm'
import { BreakerList } from './BreakerList'
import { NewPanel } from './NewPanel'
import { PanelGrid } from './PanelGrid'
import { VoltsForm } from './VoltsForm'

/** The panels of a site: which leg each space is on, what sits in it, and what is wrong with that. */
export default function PanelPage() {
  const { siteId = '' } = useParams()
  const { data, error, refetch } = useQuery(feedsQuery(siteId))
  if (data) return <Panels key={siteId} siteId={siteId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the panels" />
}

function Panels({ siteId, data }: { siteId: string; data: SiteFeeds }) {
  const { change, undo, canUndo, busy, error, seeTheirs, keepMine } = useSiteMap(siteId, data)
  const { feeds } = data
  const [adding, setAdding] = useState(false)
  return (
    <div className="page panel-page">
      <FrameTitle title={`Panel map, ${data.site_name}`}>
        <span className="grow title-words">
          <b>Panel map</b> <span>{data.site_name}</span>
        </span>
        <button type="button" className="head-plain" disabled={!canUndo} onClick={undo}>
          Undo
        </button>
      </FrameTitle>
      <Clash error={error} busy={busy} seeTheirs={seeTheirs} keepMine={keepMine} />
      {data.panels.map((answer) => (
        <OnePanel key={answer.panel} siteId={siteId} feeds={feeds} answer={answer} busy={busy} change={change} />
      ))}
      {data.panels.length === 0 || adding ? (
        <NewPanel
          busy={busy}
          taken={(feeds.panels ?? []).map((one) => one.id)}
          add={(panel) => {
            setAdding(false)
            change({ ...feeds, panels: [...(feeds.panels ?? []), panel] })
          }}
        />
      ) : (
        <p className="row-of-buttons">
          <button type="button" className="plain-button" onClick={() => setAdding(true)}>
            Another panel
          </button>
        </p>
      )}
      <p className="row-of-buttons">
        <Link className="plain-button" to={`/sites/${siteId}/feeds`}>
          Which breaker feeds what?
        </Link>
      </p>
      <p className="quiet">A panel is opened, and poles are moved, only by whoever is licensed for it, and dead: the lugs ahead of the main stay live.</p>
    </div>
  )
}

type Props = { siteId: string; feeds: Feeds; answer: PanelAnswer; busy: boolean; change: (next: Feeds) => void }

function OnePanel({ siteId, feeds, answer, busy, change }: Props) {
  const [at, setAt] = useState<number | null>(null)
  const panel = (feeds.panels ?? []).find((one) => one.id === answer.panel)
  if (!panel) return null
  const switches = feeds.switches ?? []
  const space = answer.spaces.find((one) => one.space === at)
  const today = new Date().toLocaleDateString('sv-SE')
  return (
    <section aria-label={panel.name} className="panel">
      <h2 className="day">
        {panel.name} <span className="quiet">{panel.spaces} spaces</span>
      </h2>
      {answer.warnings.map((words) => (
        <p key={words} className="problem">
          {words}
        </p>
      ))}
      <BreakerList answer={answer} switches={switches} />
      <Panel what="panel">
        <PanelGrid answer={answer} switches={switches} chosen={at} choose={(one) => setAt(one === at ? null : one)} />
      </Panel>
      {space ? (
        <BreakerForm
          key={space.space}
          feeds={feeds}
          panel={panel.id}
          spaces={answer.spaces}
          space={space}
          busy={busy}
          change={(next) => {
            change(next)
            setAt(null)
          }}
        />
      ) : (
        <p className="quiet">Touch a space to say what sits in it.</p>
      )}
      <details className="standing">
        <summary>Volts between two spaces</summary>
        <VoltsForm
          panel={panel}
          busy={busy}
          set={(next) => change({ ...feeds, panels: (feeds.panels ?? []).map((one) => (one.id === panel.id ? next : one)) })}
        />
      </details>
      <p className="row-of-buttons">
        <a className="plain-button" href={`/api/sites/${siteId}/panels/${panel.id}/label?day=${today}`} target="_blank" rel="noreferrer">
          Label sheet (PDF)
        </a>
        <button
          type="button"
          className="plain-button"
          disabled={busy}
          onClick={() =>
            change({
              ...feeds,
              panels: (feeds.panels ?? []).filter((one) => one.id !== panel.id),
              switches: switches.map((one) => (one.panel === panel.id ? { ...one, panel: null, poles: [] } : one)),
            })
          }
        >
          Remove the panel
        </button>
      </p>
    </section>
  )
}

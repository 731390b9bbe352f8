import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'

import { feeds as feedsQuery } from '../../api/queries'
import type { SiteFeeds } from '../../api/schema.gen'
import { useSiteMap } from '../../entities/siteMap/useSiteMap'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import { AddEnd, AddSwitch, AddUnit } from './Add'
import { ToggleForm } from './ToggleForm'

/** Which breaker, disconnect and thermostat belong to which equipment: switch one, note what dies. */
export default function FeedsPage() {
  const { siteId = '' } = useParams()
  const { data, error, refetch } = useQuery(feedsQuery(siteId))
  if (data) return <Map key={siteId} siteId={siteId} data={data} />
  return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the site’s map" />
}

function Map({ siteId, data }: { siteId: string; data: SiteFeeds }) {
  const { change, undo, canUndo, busy, error, seeTheirs, keepMine } = useSiteMap(siteId, data)
  const { feeds, answer } = data
  const { switches = [], units = [], toggles = [], ends = [] } = feeds
  const nameOf = (id: string) => [...switches, ...units].find((one) => one.id === id)?.name ?? id
  return (
    <div className="page">
      <FrameTitle title={`What feeds what, ${data.site_name}`}>
        <span className="grow title-words">
          <b>What feeds what</b> <span>{data.site_name}</span>
        </span>
        <button type="button" className="head-plain" disabled={!canUndo} onClick={undo}>
          Undo
        </button>
      </FrameTitle>
      {answer.warnings.map((words) => (
        <p key={words} className="problem">
          {words}
        </p>
      ))}
      <section className="next-test" aria-label="Next toggle">
        <p className="quiet">Next{answer.next_switch ? ' · the toggle that decides most' : ''}</p>
        <h2>
          <span>{answer.next_words}</span>
        </h2>
        {switches.length && units.length ? (
          <ToggleForm
            key={`${toggles.length} ${answer.next_switch ?? ''}`}
            feeds={feeds}
            first={answer.next_switch ?? switches[0]?.id ?? ''}
            busy={busy}
            add={(toggle) => change({ ...feeds, toggles: [...toggles, toggle] })}
          />
        ) : null}
        <p className="caution">Ask before you switch: somebody’s freezer or oxygen may hang on it. Off by its label is not proved dead.</p>
      </section>
      <Clash error={error} busy={busy} seeTheirs={seeTheirs} keepMine={keepMine} />
      <section aria-label="The map" className="feeds-map">
        <h2>The map so far</h2>
        {answer.fed.length ? (
          <ul>
            {answer.fed.map((one) => (
              <li key={one.unit + one.kind} className={one.found ? 'found' : ''}>
                <b className="num share">{Math.round(one.probability * 100)}%</b>
                <span>
                  {one.words} <span className="quiet">{one.kind}</span>
                </span>
              </li>
            ))}
          </ul>
        ) : (
          <p className="quiet">List the switches you can reach and the equipment you look at.</p>
        )}
      </section>
      <p className="row-of-buttons">
        <Link className="plain-button" to={`/sites/${siteId}/panels`}>
          Panel map and labels
        </Link>
      </p>
      <section aria-label="Switches and equipment" className="feeds-lists">
        <h2>Switches</h2>
        <ul>
          {switches.map((one) => (
            <li key={one.id}>
              {one.name} <span className="quiet">{[one.kind, one.label && `labelled “${one.label}”`].filter(Boolean).join(' · ')}</span>
            </li>
          ))}
        </ul>
        <AddSwitch busy={busy} taken={switches.map((one) => one.id)} add={(one) => change({ ...feeds, switches: [...switches, one] })} />
        <h2>Equipment</h2>
        <ul>
          {units.map((one) => (
            <li key={one.id}>{one.name}</li>
          ))}
        </ul>
        <AddUnit busy={busy} taken={units.map((one) => one.id)} add={(one) => change({ ...feeds, units: [...units, one] })} />
        <h2>What was switched</h2>
        <ol>
          {toggles.map((one) => (
            <li key={one.id}>
              {nameOf(one.switch)} off:{' '}
              {Object.entries(one.results)
                .map(([unit, result]) => `${nameOf(unit)} ${result}`)
                .join(', ')}
            </li>
          ))}
        </ol>
        <h2>Ends of the wires</h2>
        <ul>
          {ends.map((one, i) => (
            <li key={i}>
              {nameOf(one.unit)}: {one.at_source} at the source, {one.at_unit} at the unit
            </li>
          ))}
        </ul>
        {units.length ? <AddEnd units={units} busy={busy} add={(one) => change({ ...feeds, ends: [...ends, one] })} /> : null}
      </section>
    </div>
  )
}

import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'

import { answered, api } from '../../api/client'
import { site as siteQuery } from '../../api/queries'
import type { SiteSummary } from '../../api/schema.gen'
import { CallList } from '../../entities/call/CallList'
import { FrameTitle } from '../../shared/FrameTitle'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { NameForm } from './NameForm'
import { useRename } from './useRename'

/** One site: its name and address, what stands there, and its calls. */
export default function SitePage() {
  const { siteId = '' } = useParams()
  const { data, error, refetch } = useQuery(siteQuery(siteId))
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the site" />
  return <Shown key={siteId} site={data} />
}

function Shown({ site }: { site: SiteSummary }) {
  const me = usePerson()
  const rename = useRename(siteQuery(site.id).queryKey, (body) => answered(api.PATCH('/api/sites/{site_id}', { params: { path: { site_id: site.id } }, body })))
  return (
    <div className="page">
      <FrameTitle title={site.name}>
        <span className="grow title-words">
          <b>{site.name}</b>
        </span>
        {opensCalls(me) ? (
          <Link to={`/calls/new?site=${site.id}`} className="accent-button head-button">
            New call
          </Link>
        ) : null}
      </FrameTitle>
      <NameForm
        what="site"
        now={{ name: site.name, address: site.address }}
        error={rename.error}
        busy={rename.isPending}
        save={(names, done) => rename.mutate(names, { onSuccess: done })}
      />
      <p className="row-of-buttons">
        <Link className="plain-button" to={`/sites/${site.id}/feeds`}>
          Which breaker?
        </Link>
        <Link className="plain-button" to={`/sites/${site.id}/panels`}>
          Panel map
        </Link>
      </p>
      <h2 className="day">Equipment</h2>
      <ul className="site-list">
        {site.equipment.map((one) => (
          <li key={one.id}>
            <Link to={`/equipment/${one.id}`} className="site-equipment">
              {one.name} <span className="quiet">{one.circuit_name}</span>
            </Link>
          </li>
        ))}
      </ul>
      <h2 className="day">Calls</h2>
      <CallList wanted={{ site_id: site.id }} nothing="No call was at this site yet." />
    </div>
  )
}

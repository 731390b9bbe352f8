import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import { sites } from '../../api/queries'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'

/** Sites and what stands there. */
export default function EquipmentListPage() {
  const [search, setSearch] = useState('')
  const words = useDeferredValue(search.trim())
  const { data, error, refetch } = useQuery({ ...sites(words), placeholderData: keepPreviousData })
  return (
    <div className="page">
      <FrameTitle title="Equipment" />
      <label className="call-search">
        <span className="visually-hidden">Search sites and equipment</span>
        <input type="search" value={search} maxLength={80} placeholder="Site, street, equipment …" onChange={(event) => setSearch(event.target.value)} />
      </label>
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the sites" /> : null}
      {data?.sites.length === 0 ? <p className="page-state">{words ? `Nothing matches “${words}”.` : 'Nothing is on file yet: a new call puts its site and equipment here.'}</p> : null}
      <ul className="site-list">
        {data?.sites.map((site) => (
          <li key={site.id}>
            <Link to={`/sites/${site.id}`} className="site-name">
              <strong>{site.name}</strong>
              <span className="quiet">{site.address}</span>
            </Link>
            {site.equipment.map((one) => (
              <Link key={one.id} to={`/equipment/${one.id}`} className="site-equipment">
                {one.name} <span className="quiet">{one.circuit_name}</span>
              </Link>
            ))}
          </li>
        ))}
      </ul>
      {data?.next ? <p className="quiet">More are on file: search by name.</p> : null}
    </div>
  )
}

import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { Link } from 'react-router'

import { sites } from '../../api/queries'
import { SearchField } from '../../shared/fields'
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
      <SearchField label="Search sites and equipment" value={search} set={setSearch} placeholder="Site, street, equipment …" />
      {error ? <Failed error={error} retry={() => void refetch()} /> : null}
      {!data && !error ? <Loading what="the sites" /> : null}
      {data?.sites.length === 0 ? (
        <p className="page-state">{words ? `Nothing matches “${words}”.` : 'Nothing is on file yet: a new call puts its site and equipment here.'}</p>
      ) : null}
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

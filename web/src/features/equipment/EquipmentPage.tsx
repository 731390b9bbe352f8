import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'

import { answered, api } from '../../api/client'
import { equipment as equipmentQuery } from '../../api/queries'
import type { EquipmentOnFile } from '../../api/schema.gen'
import { CallList } from '../../entities/call/CallList'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { opensCalls, usePerson } from '../../shared/person'
import { Failed, Loading } from '../../shared/states'
import { NameForm } from './NameForm'
import { TrendList } from './TrendList'
import { useRename } from './useRename'

/** One piece of equipment: where it stands, its circuit part by part, and its past calls. */
export default function EquipmentPage() {
  const { equipmentId = '' } = useParams()
  const { data, error, refetch } = useQuery(equipmentQuery(equipmentId))
  if (!data) return error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the equipment" />
  return <Shown key={equipmentId} data={data} />
}

function Shown({ data: { equipment, site, strip } }: { data: EquipmentOnFile }) {
  const me = usePerson()
  const rename = useRename(equipmentQuery(equipment.id).queryKey, (body) =>
    answered(api.PATCH('/api/equipment/{equipment_id}', { params: { path: { equipment_id: equipment.id } }, body })),
  )
  return (
    <div className="page">
      <FrameTitle title={equipment.name}>
        <span className="grow title-words">
          <b>{equipment.name}</b> <span>{site.name}</span>
        </span>
        {opensCalls(me) ? (
          <Link to={`/calls/new?site=${site.id}`} className="accent-button head-button">
            New call
          </Link>
        ) : null}
      </FrameTitle>
      <NameForm
        what="equipment"
        now={{ name: equipment.name }}
        error={rename.error}
        busy={rename.isPending}
        save={(names, done) => rename.mutate(names, { onSuccess: done })}
      />
      <p>
        <Link className="text-link" to={`/sites/${site.id}`}>
          {site.name}
        </Link>{' '}
        <span className="quiet">{site.address}</span>
      </p>
      <details className="standing">
        <summary>
          Circuit <span className="quiet">{equipment.circuit.name}</span>
        </summary>
        {strip.sections.map((section) => (
          <section key={section.root} aria-label={section.title}>
            <h2 className="quiet">{section.title}</h2>
            <table className="plain-table parts">
              <tbody>
                {section.rows.map((row) => (
                  <tr key={row.part}>
                    <th scope="row">{row.name}</th>
                    <td>{row.device}</td>
                    <td className="num">{row.detail}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        ))}
        <p className="quiet">The circuit is changed from a call, where readings show what is really there.</p>
      </details>
      <Panel what="list of trends">
        <TrendList equipmentId={equipment.id} />
      </Panel>
      <h2 className="day">Calls</h2>
      <CallList wanted={{ equipment_id: equipment.id }} nothing="No call was on this equipment yet." />
    </div>
  )
}

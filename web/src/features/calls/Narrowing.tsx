import { useQuery } from '@tanstack/react-query'
import { Select } from 'antd'

import { people } from '../../api/queries'
import { STATUSES } from '../../entities/call/CallRow'
import { DayField } from '../../shared/DayField'
import { SearchField } from '../../shared/fields'
import { opensCalls, usePerson } from '../../shared/person'
import { Themed } from '../../shared/Themed'

type Props = {
  search: string
  seek: (words: string) => void
  status: string | null
  who: string | null
  day: string | null
  set: (name: string, value: string | null) => void
}

/** What narrows the list of calls: words, how far they are, whose, and the day. */
export default function Narrowing({ search, seek, status, who, day, set }: Props) {
  const me = usePerson()
  const everybody = useQuery({ ...people, enabled: me.role === 'lead' })
  return (
    <Themed>
      <SearchField label="Search calls" value={search} set={seek} placeholder="Customer, street, equipment …" />
      <div className="chips" role="group" aria-label="How far">
        {[null, ...Object.keys(STATUSES)].map((one) => (
          <button key={one ?? 'all'} type="button" className="chip" aria-pressed={status === one} onClick={() => set('status', one)}>
            {one === null ? 'All' : STATUSES[one as keyof typeof STATUSES]}
          </button>
        ))}
        {me.role === 'lead' ? (
          <Select
            className="who-chip"
            aria-label="Technician"
            placeholder="Technician"
            allowClear
            virtual={false}
            popupMatchSelectWidth={false}
            value={who}
            options={everybody.data?.filter(opensCalls).map((one) => ({ value: one.id, label: one.id === me.id ? 'Mine' : one.name })) ?? []}
            onChange={(chosen) => set('who', chosen ?? null)}
          />
        ) : (
          <button type="button" className="chip" aria-pressed={who === me.id} onClick={() => set('who', who === me.id ? null : me.id)}>
            Mine
          </button>
        )}
        <DayField isBare label="Day" value={day} set={(next) => set('day', next)} />
      </div>
    </Themed>
  )
}

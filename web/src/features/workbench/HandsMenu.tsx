import { Button, Dropdown } from 'antd'

import type { Held } from '../../entities/strip/setup'
import { Themed } from '../../shared/Themed'

/** What a hand may do, by heading. */
export type HandsGroup = { heading: string; ways: { field: keyof Held; id: string; words: string }[] }

type Props = { label: string; groups: HandsGroup[]; hold: (field: keyof Held, id: string) => void }

/** Pushed in, held out, lifted, taken out: chosen one at a time. */
export default function HandsMenu({ label, groups, hold }: Props) {
  const ways = groups.flatMap((one) => one.ways)
  return (
    <Themed>
      <Dropdown
        trigger={['click']}
        menu={{
          className: 'hands-menu',
          items: groups.map(({ heading, ways }) => ({
            key: heading,
            type: 'group' as const,
            label: heading,
            children: ways.map(({ field, id, words }) => ({ key: `${field}:${id}`, label: words })),
          })),
          onClick: ({ key }) => {
            const way = ways.find(({ field, id }) => key === `${field}:${id}`)
            if (way) hold(way.field, way.id)
          },
        }}
      >
        <Button>{label}</Button>
      </Dropdown>
    </Themed>
  )
}

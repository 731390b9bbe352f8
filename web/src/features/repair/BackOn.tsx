import { Checkbox } from 'antd'

import type { CallRepair } from '../../api/schema.gen'

type Props = { steps: CallRepair['plan']['back_on']; done: readonly string[]; mayChange: boolean; tick: (line: string) => void }

/** Back on in order: each step, what it should read, when to stop. */
export function BackOn({ steps, done, mayChange, tick }: Props) {
  return (
    <section aria-label="Back on in order">
      <h2>Back on in order</h2>
      <ol className="work-list back-on">
        {steps.map(({ does, reads, stop }) => (
          <li key={does}>
            <Checkbox checked={done.includes(does)} disabled={!mayChange} onChange={() => tick(does)}>
              <b>{does}</b>
              {reads ? <span className="reads">Should read: {reads}</span> : null}
              {stop ? <span className="caution bare">{stop}</span> : null}
            </Checkbox>
          </li>
        ))}
      </ol>
    </section>
  )
}

import { Button, Input } from 'antd'
import { useState } from 'react'

import type { CallRepair } from '../../api/schema.gen'
import { DayField } from '../../shared/DayField'

type Notes = NonNullable<CallRepair['notes']['proof']>
type Props = { proof: CallRepair['proof']; notes: Notes; mayChange: boolean; leave: (left: Partial<Notes>) => void }

/** How the proof is left: proven where everything holds, else not proven, with the reason that follows the call. */
export function LeaveProof({ proof, notes, mayChange, leave }: Props) {
  const outcome = notes.outcome ?? 'open'
  // What is typed here stays; all else is as it was noted, by whomever.
  const [typed, setTyped] = useState<Partial<Notes>>({})
  const { reason, return_on: day = null } = { ...notes, ...typed }
  const open = proof.missing + proof.failing + proof.later
  const must = [reason.trim() ? '' : 'the reason', proof.later && !day ? 'the day' : ''].filter(Boolean)
  return (
    <section aria-label="How it is left">
      <h2>How it is left</h2>
      <div className="row-of-buttons">
        <Button
          type="primary"
          size="large"
          disabled={!mayChange || open > 0 || outcome === 'proven'}
          onClick={() => leave({ outcome: 'proven', reason: '', return_on: null })}
        >
          Proven
        </Button>
        {outcome === 'open' ? null : (
          <Button size="large" disabled={!mayChange} onClick={() => leave({ outcome: 'open' })}>
            Open again
          </Button>
        )}
      </div>
      {outcome === 'proven' ? null : (
        <div className="asked-first">
          <p className="quiet">
            {open
              ? 'What is missing or not met keeps it from being proven. It can be left with the reason, which follows the call.'
              : 'Or leave it as not proven, with the reason.'}
          </p>
          <Input
            aria-label="Why it is not proven"
            placeholder="Why it is not proven"
            maxLength={300}
            disabled={!mayChange}
            value={reason}
            onChange={(event) => setTyped({ ...typed, reason: event.target.value })}
          />
          <DayField label="When it is proven" fromToday disabled={!mayChange} value={day} set={(return_on) => setTyped({ ...typed, return_on })} />
          <Button size="large" disabled={!mayChange || must.length > 0} onClick={() => leave({ outcome: 'not_proven', reason: reason.trim(), return_on: day })}>
            Leave as not proven{must.length ? `: give ${must.join(' and ')}` : ''}
          </Button>
        </div>
      )}
    </section>
  )
}

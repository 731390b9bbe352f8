import { Segmented } from 'antd'
import { Link } from 'react-router'

import type { CallRepair } from '../../api/schema.gen'
import { StopView } from '../../entities/answer/StopView'
import { toggled } from '../../entities/repair/toggled'
import { useNotes } from '../../entities/repair/useNotes'
import { type Repaired, WithRepair } from '../../entities/repair/WithRepair'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { LeaveProof } from './LeaveProof'
import { ProofRow } from './ProofRow'

type Proof = CallRepair['proof']
type Notes = NonNullable<CallRepair['notes']['proof']>

const MODES: { value: NonNullable<Notes['mode']>; label: string }[] = [
  { value: 'cooling', label: 'Cooling' },
  { value: 'heat_pump', label: 'Heating' },
]

const GROUPS: readonly (readonly [Proof['items'][number]['group'], string])[] = [
  ['volts', 'Volts at the unit'],
  ['amps', 'Amps, one conductor in the clamp'],
  ['start', 'The start'],
  ['stages', 'Stages'],
  ['air', 'Air'],
  ['joints', 'Joints and devices'],
  ['last', 'Before you leave'],
]

/** Whether the repair is proven: what is asked of it, filled by numbers and judged. */
export default function ProvePage() {
  return <WithRepair what="the proof" Page={Shown} />
}

function Shown({ callId, data }: Repaired) {
  const { proof, call } = data
  const notes = data.notes.proof ?? {}
  const { keep, change, clash } = useNotes(callId, data)
  // Whatever is changed opens the proof again.
  const set = (more: (proof: Notes) => Partial<Notes>) => change((all) => ({ ...all, proof: { ...all.proof, outcome: 'open', ...more(all.proof ?? {}) } }))
  const ticked = notes.ticked ?? []
  const { logged } = data
  const fresh = Object.keys(logged).filter((key) => notes.numbers?.[key] === undefined)
  const cools = proof.items.some((one) => /^(outdoor|air_in|later):/.test(one.key))
  return (
    <div className="page prove">
      <FrameTitle title={`Proof of ${call.equipment_name}`}>
        <span className="grow title-words">
          <b>Prove</b> <span>{call.equipment_name}</span>
        </span>
        <button type="button" className="head-plain" onClick={() => window.print()}>
          Print
        </button>
      </FrameTitle>
      {data.stop ? <StopView stop={data.stop} /> : null}
      <Clash {...clash} />
      <Summary proof={proof} outcome={notes.outcome ?? 'open'} reason={notes.reason ?? ''} />
      <div className="row-of-buttons">
        <Link className="plain-button" to={`/calls/${callId}/prove/load-tests`}>
          Load test over time
        </Link>
        {fresh.length && data.may_change ? (
          <button type="button" className="plain-button" onClick={() => set((proof) => ({ numbers: { ...logged, ...proof.numbers } }))}>
            Take {fresh.length} {fresh.length === 1 ? 'number' : 'numbers'} from the last load test
          </button>
        ) : null}
      </div>
      {GROUPS.map(([group, title]) => {
        const items = proof.items.filter((one) => one.group === group)
        return items.length ? (
          <section key={group} aria-label={title}>
            <h2>{title}</h2>
            {group === 'air' && cools ? (
              <Segmented
                size="large"
                aria-label="What it does while the air is read"
                disabled={!data.may_change}
                value={notes.mode ?? 'cooling'}
                options={MODES}
                onChange={(mode) => set(() => ({ mode }))}
              />
            ) : null}
            <ul className="proof-list">
              {items.map((item) => (
                <ProofRow
                  key={item.key}
                  item={item}
                  ticked={ticked.includes(item.key)}
                  mayChange={data.may_change}
                  setNumber={(value) => set((proof) => ({ numbers: withNumber(proof.numbers ?? {}, item.key, value) }))}
                  tick={() => set((proof) => ({ ticked: toggled(proof.ticked ?? [], item.key) }))}
                />
              ))}
            </ul>
          </section>
        ) : null
      })}
      <LeaveProof
        proof={proof}
        notes={notes}
        mayChange={data.may_change && !keep.isPending}
        leave={(left) => change((all) => ({ ...all, proof: { ...all.proof, ...left } }))}
      />
      <p className="quiet">Nameplate and maker’s instructions go before the usual limits shown here.</p>
    </div>
  )
}

function withNumber(numbers: Record<string, number>, key: string, value: number | null): Record<string, number> {
  const others = Object.fromEntries(Object.entries(numbers).filter(([one]) => one !== key))
  return value === null ? others : { ...others, [key]: value }
}

function Summary({ proof, outcome, reason }: { proof: Proof; outcome: string; reason: string }) {
  const holds = proof.missing + proof.failing + proof.later === 0
  const parts = [
    proof.failing ? `${proof.failing} not met` : '',
    proof.missing ? `${proof.missing} to do` : '',
    proof.later ? `${proof.later} not possible today` : '',
  ]
  const words =
    outcome === 'proven' ? 'Proven' : outcome === 'not_proven' ? 'Left as not proven' : holds ? 'Everything is met' : parts.filter(Boolean).join(' · ')
  return (
    <p className={`proof-summary ${proof.failing ? 'fails' : holds ? 'holds' : ''}`} role="status">
      <b>{words}</b>
      {outcome === 'not_proven' && reason ? <span>{reason}</span> : null}
    </p>
  )
}

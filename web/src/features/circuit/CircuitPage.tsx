import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Select } from 'antd'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { partKinds, systems, workbench } from '../../api/queries'
import type { Circuit, PartKind, Strip, Workbench } from '../../api/schema.gen'
import type { Edit } from '../../entities/circuit/parts'
import { atRest } from '../../entities/strip/setup'
import { StripView } from '../../entities/strip/StripView'
import { Clash } from '../../shared/Clash'
import { FrameTitle } from '../../shared/FrameTitle'
import { Panel } from '../../shared/Panel'
import { Failed, Loading } from '../../shared/states'
import { useWide } from '../../shared/useWide'
import { PartRow } from './PartRow'

type Draft = { circuit: Circuit; strip: Strip }

export default function CircuitPage() {
  const { callId = '' } = useParams()
  const call = useQuery(workbench(callId))
  const kinds = useQuery(partKinds)
  const failed = call.error ?? kinds.error
  if (call.data && kinds.data) return <Editor key={callId} data={call.data} kinds={kinds.data} />
  return failed ? <Failed error={failed} retry={() => void Promise.all([call.refetch(), kinds.refetch()])} /> : <Loading what="the circuit" />
}

/** The circuit part by part. Every change is checked at once and can be undone; nothing is on file until it is kept. */
function Editor({ data, kinds }: { data: Workbench; kinds: PartKind[] }) {
  const [history, setHistory] = useState<Draft[]>([{ circuit: data.circuit, strip: data.strip }])
  const [seen, setSeen] = useState(data.versions.circuit)
  const [openRow, setOpenRow] = useState<string | null>(null)
  const wide = useWide()
  const navigate = useNavigate()
  const client = useQueryClient()
  const draft = history.at(-1) ?? data
  const change = useMutation({
    mutationFn: ({ edit }: { edit: Edit; from: string | null }) => answered(api.POST('/api/circuits/edit', { body: { circuit: draft.circuit, edit } })),
    onSuccess: (next, { from }) => {
      setHistory([...history, next])
      // A row that was opened meanwhile stays open.
      setOpenRow((now) => (now === from ? null : now))
    },
  })
  const keep = useMutation({
    // What is seen is what the changes began with, whatever is fetched meanwhile.
    mutationFn: ({ anyway }: { anyway: boolean }) =>
      answered(
        api.PUT('/api/calls/{call_id}/circuit', { params: { path: { call_id: data.call.id }, query: { seen: anyway ? null : seen } }, body: draft.circuit }),
      ),
    onSuccess: async (bench) => {
      await hold(client, workbench(data.call.id).queryKey, bench)
      void client.invalidateQueries({ queryKey: ['sites'] })
      void navigate(`/calls/${data.call.id}`)
    },
  })
  const changed = history.length > 1
  const seeTheirs = async () => {
    const theirs = await client.fetchQuery({ ...workbench(data.call.id), staleTime: 0 })
    keep.reset()
    setSeen(theirs.versions.circuit)
    // Ours stay one step of Undo away.
    setHistory([...history, { circuit: theirs.circuit, strip: theirs.strip }])
  }
  return (
    <div className="page circuit-page">
      <FrameTitle title={`Circuit of ${data.call.equipment_name}`}>
        <span className="grow title-words">
          <b>Circuit</b> <span>{data.call.equipment_name}</span>
        </span>
        <button type="button" className="head-plain" disabled={!changed} onClick={() => setHistory(history.slice(0, -1))}>
          Undo
        </button>
      </FrameTitle>
      <Clash error={change.error ?? keep.error} busy={keep.isPending} seeTheirs={() => void seeTheirs()} keepMine={() => keep.mutate({ anyway: true })} />
      {draft.strip.sections.map((section) => (
        <section key={section.root} className="circuit-section" aria-label={section.title}>
          <h2>{section.title}</h2>
          {section.rows.map((row, i) => {
            const part = draft.circuit.parts.find((one) => one.id === row.part)
            return part ? (
              <PartRow
                key={row.part}
                row={row}
                previous={section.rows[i - 1]}
                part={part}
                circuit={draft.circuit}
                strip={draft.strip}
                kinds={kinds}
                isOpen={openRow === section.root + row.part}
                toggle={() => {
                  change.reset()
                  setOpenRow(openRow === section.root + row.part ? null : section.root + row.part)
                }}
                busy={change.isPending}
                change={(edit) => change.mutate({ edit, from: openRow })}
              />
            ) : null
          })}
        </section>
      ))}
      <details className="standing drawn-strip" open={wide}>
        <summary>The strip as it is now</summary>
        {/* To look at: points are touched on the call's own strip. */}
        <div inert>
          <Panel what="drawing">
            <StripView
              circuit={draft.circuit}
              strip={draft.strip}
              setup={atRest}
              suspects={[]}
              states={[]}
              panelShut={false}
              looks={[]}
              room={wide ? 240 : 186}
              dispatch={() => undefined}
            />
          </Panel>
        </div>
      </details>
      <AddSupply busy={change.isPending} add={(system) => change.mutate({ edit: { do: 'add_supply', system }, from: openRow })} />
      <div className="circuit-keep">
        <Link className="plain-button" to={`/calls/${data.call.id}`}>
          {changed ? 'Drop changes' : 'Back to the call'}
        </Link>
        <button type="button" className="accent-button" disabled={!changed || keep.isPending} onClick={() => keep.mutate({ anyway: false })}>
          Keep circuit
        </button>
      </div>
    </div>
  )
}

/** Equipment with more than one supply: a further one, of any system. */
function AddSupply({ busy, add }: { busy: boolean; add: (system: string) => void }) {
  const known = useQuery(systems)
  const [system, setSystem] = useState<string | null>(null)
  return (
    <div className="part-insert">
      <Select
        aria-label="Supply to add"
        placeholder="Another supply feeds it too …"
        virtual={false}
        value={system}
        options={(known.data ?? []).map((one) => ({ value: one.key, label: one.label }))}
        onChange={setSystem}
      />
      <Button disabled={!system || busy} onClick={() => system && add(system)}>
        Add supply
      </Button>
    </div>
  )
}

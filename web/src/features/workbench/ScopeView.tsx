import { useMutation, useQueryClient } from '@tanstack/react-query'

import { answered, api } from '../../api/client'
import { hold } from '../../api/held'
import { workbench } from '../../api/queries'
import type { Scope } from '../../api/schema.gen'

type Way = NonNullable<Scope['way']>
type Tool = NonNullable<Scope['tools']>[number]

const WAYS: Record<Way, string> = { fewest: 'Fewest readings', unit_back: 'From the unit back', source_out: 'From the source out' }
const TOOLS: Record<Tool, string> = {
  eyes: 'Eyes and ears',
  loz: 'LoZ on the meter',
  ohms: 'Ohms, locked out',
  sequence: 'Phase sequence',
  tester: 'Non-contact tester',
  thermometer: 'Infrared thermometer',
  insulation: 'Insulation tester',
}

type Props = { callId: string; scope: Scope; seen: string; mayChange: boolean; mayOpen: boolean }

/** How far to go, in which order, and with what: the next test keeps to it. */
export function ScopeView({ callId, scope, seen, mayChange, mayOpen }: Props) {
  const client = useQueryClient()
  const change = useMutation({
    mutationFn: (body: Scope) => answered(api.PUT('/api/calls/{call_id}/scope', { params: { path: { call_id: callId }, query: { seen } }, body })),
    onSuccess: (data) => hold(client, workbench(callId).queryKey, data),
    // Changed by somebody else: what they chose is shown, and can be changed again.
    onError: () => void client.invalidateQueries({ queryKey: workbench(callId).queryKey }),
  })
  const { tools = [], way = 'fewest', panel_may_be_opened = false, panel_volts_only = false } = scope
  const has = (tool: Tool) => tools.includes(tool)
  return (
    <fieldset className="scope bare" disabled={!mayChange}>
      <label className="panel-choice">
        <input type="checkbox" checked={panel_may_be_opened} disabled={change.isPending || !mayOpen} onChange={(event) => change.mutate({ ...scope, panel_may_be_opened: event.target.checked })} />
        Panel may be opened <span className="quiet">{mayOpen ? '(only if licensed for it)' : '(a lead grants panel work)'}</span>
      </label>
      {panel_may_be_opened || !mayOpen ? null : (
        <label className="panel-choice">
          <input type="checkbox" checked={panel_volts_only} disabled={change.isPending} onChange={(event) => change.mutate({ ...scope, panel_volts_only: event.target.checked })} />
          Volts only in the panel
        </label>
      )}
      <div className="ways">
        <fieldset className="choices">
          <legend>Order of work</legend>
          {(Object.keys(WAYS) as Way[]).map((one) => (
            <label key={one}>
              <input type="radio" name="way" checked={way === one} disabled={change.isPending} onChange={() => change.mutate({ ...scope, way: one })} />
              {WAYS[one]}
            </label>
          ))}
        </fieldset>
        <fieldset className="choices">
          <legend>At hand, besides volts and a clamp</legend>
          {(Object.keys(TOOLS) as Tool[]).map((tool) => (
            <label key={tool}>
              <input type="checkbox" checked={has(tool)} disabled={change.isPending} onChange={() => change.mutate({ ...scope, tools: has(tool) ? tools.filter((one) => one !== tool) : [...tools, tool] })} />
              {TOOLS[tool]}
            </label>
          ))}
        </fieldset>
      </div>
      {change.error ? <p className="problem">{change.error.message}</p> : null}
    </fieldset>
  )
}

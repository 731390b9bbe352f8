import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Checkbox, Radio } from 'antd'

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

const optionsOf = <T extends string>(words: Record<T, string>) => (Object.entries(words) as [T, string][]).map(([value, label]) => ({ value, label }))

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
  const { tools = [], way = 'fewest', panel_may_be_opened = false, panel_volts_only = false, use_past = true } = scope
  return (
    <div className="scope">
      <Checkbox
        checked={panel_may_be_opened}
        disabled={!mayChange || change.isPending || !mayOpen}
        onChange={(event) => change.mutate({ ...scope, panel_may_be_opened: event.target.checked })}
      >
        Panel may be opened <span className="quiet">{mayOpen ? '(only if licensed for it)' : '(a lead grants panel work)'}</span>
      </Checkbox>
      <Checkbox disabled={!mayChange || change.isPending} checked={use_past} onChange={(event) => change.mutate({ ...scope, use_past: event.target.checked })}>
        What we have found before counts <span className="quiet">(on this equipment, and on others of its kind)</span>
      </Checkbox>
      {panel_may_be_opened || !mayOpen ? null : (
        <Checkbox
          checked={panel_volts_only}
          disabled={!mayChange || change.isPending}
          onChange={(event) => change.mutate({ ...scope, panel_volts_only: event.target.checked })}
        >
          Volts only in the panel
        </Checkbox>
      )}
      <div className="ways">
        <fieldset className="choices">
          <legend>Order of work</legend>
          <Radio.Group
            disabled={!mayChange || change.isPending}
            value={way}
            options={optionsOf(WAYS)}
            onChange={(event) => change.mutate({ ...scope, way: event.target.value as Way })}
          />
        </fieldset>
        <fieldset className="choices">
          <legend>At hand, besides volts and a clamp</legend>
          <Checkbox.Group<Tool>
            disabled={!mayChange || change.isPending}
            value={tools}
            options={optionsOf(TOOLS)}
            onChange={(chosen) => change.mutate({ ...scope, tools: chosen })}
          />
        </fieldset>
      </div>
      {change.error ? <p className="problem">{change.error.message}</p> : null}
    </div>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { useCallback, useEffect, useRef, useState } from 'react'

import { answered, api, isUnreachable } from '../../api/client'
import { hold } from '../../api/held'
import { isLeaving, outlives } from '../../api/leaving'
import { ratings } from '../../api/queries'
import type { CallRatings, RatedSupply } from '../../api/schema.gen'
import { Clash } from '../../shared/Clash'
import { useLeaving } from '../../shared/useLeaving'
import { BoxesForm } from './BoxesForm'
import { DevicesForm } from './DevicesForm'
import { JointsForm } from './JointsForm'
import { CordsForm, LeadsForm } from './LeadsForm'
import { PlateForm } from './PlateForm'
import { RunsForm } from './RunsForm'
import type { Sheet } from './sheet'

const PAUSE_MS = 500

/** What is known of plate, wires and devices; kept as one types, every field may stay empty. */
export function SheetForm({ callId, supply }: { callId: string; supply: RatedSupply }) {
  const client = useQueryClient()
  const [draft, setDraft] = useState<Sheet>(supply.sheet)
  const [fresh, setFresh] = useState(0)
  // What was typed and not sent yet.
  const pending = useRef<Sheet | null>(null)
  const timer = useRef<number>(undefined)
  const [isTyped, setTyped] = useState(false)
  const path = { call_id: callId, source: supply.source }
  // Which sheet ours began with; each answer brings the next.
  const seen = useRef(supply.version)
  const known = useRef(new Set([supply.version]))
  const unanswered = useRef(false)
  const isTouched = useRef(false)
  const took = (data: CallRatings) => {
    const kept = data.supplies.find((one) => one.source === supply.source)
    if (kept) known.current.add((seen.current = kept.version))
    void hold(client, ratings(callId).queryKey, data)
    void client.invalidateQueries({ queryKey: ['workbench', callId] })
    return kept
  }
  const show = (kept: RatedSupply | undefined) => {
    pending.current = null
    setTyped(false)
    if (kept) setDraft(kept.sheet)
    setFresh((count) => count + 1)
  }
  // One after the other: each says which sheet it follows.
  const scope = { id: `sheet ${callId} ${supply.source}` }
  const save = useMutation({
    scope,
    mutationFn: async ({ sheet, anyway }: { sheet: Sheet; anyway?: boolean }) => {
      // A page that is left will not hear which version its last change made.
      const follows = unanswered.current && isLeaving()
      unanswered.current = true
      let isOpen = false
      try {
        return await answered(
          api.PUT('/api/calls/{call_id}/ratings/{source}', {
            params: { path, query: { seen: anyway || follows ? null : seen.current } },
            body: sheet,
            keepalive: outlives(sheet),
          }),
        )
      } catch (error) {
        isOpen = isUnreachable(error)
        throw error
      } finally {
        // A refusal is an answer too: what somebody else wrote is not overwritten after it.
        unanswered.current = isOpen
      }
    },
    onSuccess: took,
    // What was refused stands in its field, with the reason; whoever opens the page again sees what is kept.
    onError: (error) => (isUnreachable(error) ? undefined : client.invalidateQueries({ queryKey: ratings(callId).queryKey })),
  })
  const forget = useMutation({
    scope,
    mutationFn: () => answered(api.DELETE('/api/calls/{call_id}/ratings/{source}', { params: { path, query: { seen: seen.current } } })),
    onSuccess: (data) => show(took(data)),
  })
  const seeTheirs = async () => {
    const theirs = await client.fetchQuery({ ...ratings(callId), staleTime: 0 })
    save.reset()
    forget.reset()
    show(took(theirs))
  }
  const { mutate } = save
  const { source } = supply
  const send = useCallback(() => {
    window.clearTimeout(timer.current)
    const sheet = pending.current
    if (!sheet) return
    pending.current = null
    setTyped(false)
    // Whoever opens the page again before the answer is there sees what was typed.
    client.setQueryData(
      ratings(callId).queryKey,
      (page) => page && { ...page, supplies: page.supplies.map((one) => (one.source === source ? { ...one, sheet } : one)) },
    )
    mutate({ sheet })
  }, [client, callId, source, mutate])
  const edit = (next: Sheet) => {
    setDraft(next)
    isTouched.current = true
    pending.current = next
    setTyped(true)
    window.clearTimeout(timer.current)
    timer.current = window.setTimeout(send, PAUSE_MS)
  }
  // A pause in typing sends it; so does going away before the pause is over.
  useLeaving(send)
  // Somebody else changed it, and nothing of ours is under way: theirs is shown.
  useEffect(() => {
    if (pending.current || save.isPending || save.error) return
    // What was opened may be what a device kept of a sheet that was refused: as long as nothing is typed, the server's is shown.
    const isAsKept = isTouched.current || JSON.stringify(supply.sheet) === JSON.stringify(draft)
    if (known.current.has(supply.version) && isAsKept) return
    known.current.add((seen.current = supply.version))
    setDraft(supply.sheet)
    setFresh((count) => count + 1)
  }, [supply, draft, save.isPending, save.error])
  return (
    <details className="standing sheet-form">
      <summary>
        What is known <span className="quiet">plate, wires, devices</span>
      </summary>
      <div key={fresh}>
        <PlateForm draft={draft} edit={edit} checks={supply.plate_checks} />
        <RunsForm runs={draft.runs} set={(runs) => edit({ ...draft, runs })} />
        <DevicesForm draft={draft} edit={edit} />
        <CordsForm cords={draft.cords} set={(cords) => edit({ ...draft, cords })} />
        <LeadsForm leads={draft.small_wires} set={(small_wires) => edit({ ...draft, small_wires })} />
        <JointsForm joints={draft.joints} set={(joints) => edit({ ...draft, joints })} />
        <BoxesForm boxes={draft.boxes} set={(boxes) => edit({ ...draft, boxes })} />
      </div>
      <p className="keep" aria-live="polite">
        <span className="quiet">
          {isTyped || save.isPending ? 'Keeping …' : save.error ? '' : save.isSuccess ? 'Kept with the call.' : 'Kept as you type.'}
        </span>
        {supply.entered ? (
          <Button
            type="link"
            disabled={forget.isPending}
            onClick={() => {
              pending.current = null
              forget.mutate()
            }}
          >
            Back to what the circuit says
          </Button>
        ) : null}
      </p>
      <Clash
        error={save.error ?? forget.error}
        busy={save.isPending}
        seeTheirs={() => void seeTheirs()}
        keepMine={() => mutate({ sheet: draft, anyway: true })}
      />
    </details>
  )
}

import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { loadTests } from '../../api/queries'
import { PickField, TextField } from '../../shared/fields'

type Props = { callId: string; hasClamp: boolean; suspects: readonly { key: string; words: string }[] }

const MINUTES = [3, 5, 10, 15, 20, 30].map((one) => [one, `${one} min`] as const)
const WELL = 'well'

/** A run with the logging clamp; the simulated one also has to be told what it is clamped to. */
export function ClampForm({ callId, hasClamp, suspects }: Props) {
  const client = useQueryClient()
  const [title, setTitle] = useState('After the repair')
  const [minutes, setMinutes] = useState(10)
  const [hides, setHides] = useState(WELL)
  const run = useMutation({
    mutationFn: () =>
      answered(
        api.POST('/api/calls/{call_id}/clamp-load-tests', {
          params: { path: { call_id: callId } },
          body: { id: crypto.randomUUID(), title: title.trim() || 'Load test', minutes, hides: hides === WELL ? null : hides },
        }),
      ),
    onSuccess: (kept) => hold(client, loadTests(callId).queryKey, kept),
  })
  const places: (readonly [string, string])[] = [[WELL, 'nothing: a good circuit'], ...suspects.slice(0, 6).map((one) => [one.key, one.words] as const)]
  if (!hasClamp) return <p className="quiet">No logging clamp is connected: import its file, or type the numbers.</p>
  return (
    <>
      <div className="load-form">
        <TextField label="Name" value={title} set={setTitle} most={80} />
        <PickField label="For" value={minutes} options={MINUTES} set={setMinutes} />
        <PickField label="The simulated clamp finds" value={hides} options={places} set={setHides} />
      </div>
      <Button type="primary" size="large" loading={run.isPending} onClick={() => run.mutate()}>
        Start logging
      </Button>
      <p className="quiet">The clamp that ships with Zesty Copper is simulated: it runs a minute in a second.</p>
      {run.error ? (
        <p className="problem" role="alert">
          {messageOf(run.error, 'The clamp did not start: try again.')}
        </p>
      ) : null}
    </>
  )
}

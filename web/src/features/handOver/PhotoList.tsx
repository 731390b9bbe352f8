import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Button, Upload } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { photos, workbench } from '../../api/queries'
import { PickField, TextField } from '../../shared/fields'

const WHOLE = ''

/** Photos, each at its place on the strip; they come into the report. */
export function PhotoList({ callId, mayChange }: { callId: string; mayChange: boolean }) {
  const client = useQueryClient()
  const { data } = useQuery(photos(callId))
  const rows = useQuery(workbench(callId)).data?.strip.sections.flatMap((one) => one.rows) ?? []
  const [place, setPlace] = useState(WHOLE)
  const [words, setWords] = useState('')
  const key = photos(callId).queryKey
  const add = useMutation({
    mutationFn: (file: File) => {
      const [part, lane] = place.split('|')
      return answered(
        api.PUT('/api/calls/{call_id}/photos/{photo_id}', {
          params: {
            path: { call_id: callId, photo_id: crypto.randomUUID() },
            query: { words: words.trim(), ...(part ? { part } : {}), ...(lane ? { lane } : {}) },
          },
          body: file as unknown as string,
          bodySerializer: (body) => body as unknown as Blob,
          headers: { 'content-type': 'application/octet-stream' },
        }),
      )
    },
    onSuccess: (kept) => {
      setWords('')
      return hold(client, key, kept)
    },
  })
  const remove = useMutation({
    mutationFn: (id: string) => answered(api.DELETE('/api/calls/{call_id}/photos/{photo_id}', { params: { path: { call_id: callId, photo_id: id } } })),
    onSuccess: (kept) => hold(client, key, kept),
  })
  const places: (readonly [string, string])[] = [
    [WHOLE, 'the whole of it'],
    ...rows.flatMap((row) => {
      const lanes = Object.keys(row.points).filter((lane) => lane !== 'G')
      return [[row.part, row.name] as const, ...(lanes.length > 1 ? lanes.map((lane) => [`${row.part}|${lane}`, `${lane}, ${row.name}`] as const) : [])]
    }),
  ]
  const error = add.error ?? remove.error
  return (
    <section aria-label="Photos">
      <h2>Photos</h2>
      <ul className="photo-list">
        {data?.photos.map((one) => (
          <li key={one.id}>
            <a href={`/api/calls/${callId}/photos/${one.id}`} target="_blank" rel="noreferrer">
              <img src={`/api/calls/${callId}/photos/${one.id}?size=thumb`} alt={one.at || 'Photo'} loading="lazy" />
            </a>
            <span>{one.at || 'Photo'}</span>
            <Button type="link" disabled={!mayChange} aria-label={`Remove the photo: ${one.at || 'Photo'}`} onClick={() => remove.mutate(one.id)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      {mayChange ? (
        <div className="add-form">
          <PickField label="Taken at" value={place} options={places} set={setPlace} />
          <TextField label="What it shows" value={words} set={setWords} most={160} />
          <Upload
            accept="image/jpeg,image/png"
            showUploadList={false}
            beforeUpload={(file) => {
              add.mutate(file)
              return false
            }}
          >
            <Button size="large" loading={add.isPending}>
              Add a photo
            </Button>
          </Upload>
        </div>
      ) : null}
      {error ? (
        <p className="problem" role="alert">
          {messageOf(error, 'The photo did not arrive: try again.')}
        </p>
      ) : null}
      <p className="quiet">Place, time and camera that a phone writes into a photo are taken out.</p>
    </section>
  )
}

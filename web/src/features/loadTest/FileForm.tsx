import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Progress, Upload } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { loadTests } from '../../api/queries'
import type { CallLoadTests, CsvGuess } from '../../api/schema.gen'
import { ColumnsView } from './ColumnsView'

type Props = { callId: string; usual: CallLoadTests['usual'] }
type Chosen = { file: File; guess: CsvGuess }

const PIECE_BYTES = 900_000
const HEAD_BYTES = 60_000

/** A logger's file: its columns recognized or mapped by hand, sent in pieces, and read with progress. */
export function FileForm({ callId, usual }: Props) {
  const client = useQueryClient()
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [sent, setSent] = useState<number | null>(null)
  const path = { call_id: callId }
  const recognize = useMutation({
    mutationFn: async (file: File) => {
      const head = await file.slice(0, HEAD_BYTES).text()
      const whole = file.size > HEAD_BYTES ? head.slice(0, head.lastIndexOf('\n') + 1) : head
      const guess = await answered(api.POST('/api/calls/{call_id}/recognized-logs', { params: { path }, body: { head: whole || ' ' } }))
      return { file, guess }
    },
    onSuccess: setChosen,
  })
  const read = useMutation({
    mutationFn: async ({ file, guess }: Chosen) => {
      const id = crypto.randomUUID()
      const pieces = Math.max(1, Math.ceil(file.size / PIECE_BYTES))
      for (let place = 0; place < pieces; place += 1) {
        const piece = file.slice(place * PIECE_BYTES, (place + 1) * PIECE_BYTES)
        await answered(
          api.PUT('/api/calls/{call_id}/load-tests/{test_id}/pieces/{place}', {
            params: { path: { ...path, test_id: id, place } },
            body: piece as unknown as string,
            bodySerializer: (body) => body as unknown as Blob,
            headers: { 'content-type': 'application/octet-stream' },
          }),
        )
        setSent((place + 1) / pieces)
      }
      return answered(
        api.POST('/api/calls/{call_id}/file-load-tests', {
          params: { path },
          body: { id, title: file.name.slice(0, 80) || 'Logger file', mapping: guess.mapping },
        }),
      )
    },
    onSuccess: (kept) => {
      setChosen(null)
      return hold(client, loadTests(callId).queryKey, kept)
    },
    onSettled: () => setSent(null),
  })
  const error = recognize.error ?? read.error
  return (
    <>
      <Upload
        accept=".csv,.txt,.tsv,text/csv,text/plain"
        maxCount={1}
        showUploadList={false}
        beforeUpload={(file) => {
          recognize.mutate(file)
          return false
        }}
      >
        <Button size="large" loading={recognize.isPending}>
          Choose a CSV file
        </Button>
      </Upload>
      {chosen ? (
        <>
          <ColumnsView
            name={chosen.file.name}
            guess={chosen.guess}
            usual={usual}
            set={(mapping) => setChosen({ ...chosen, guess: { ...chosen.guess, mapping } })}
          />
          {sent === null ? null : <Progress percent={Math.round(100 * sent)} aria-label="How much of the file was sent" />}
          <Button type="primary" size="large" disabled={!chosen.guess.mapping.columns?.length} loading={read.isPending} onClick={() => read.mutate(chosen)}>
            Read the file
          </Button>
        </>
      ) : null}
      {error ? (
        <p className="problem" role="alert">
          {messageOf(error, 'The file did not arrive: try again.')}
        </p>
      ) : null}
    </>
  )
}

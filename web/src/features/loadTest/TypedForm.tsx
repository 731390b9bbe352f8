import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Button, Input } from 'antd'
import { useState } from 'react'

import { answered, api, messageOf } from '../../api/client'
import { hold } from '../../api/held'
import { loadTests } from '../../api/queries'
import type { CallLoadTests } from '../../api/schema.gen'
import { TextField } from '../../shared/fields'
import { numberOf } from '../../shared/numbers'

type Props = { callId: string; usual: CallLoadTests['usual'] }

const ROWS = 6
const UNITS = { volts: 'V', amps: 'A' } as const

/** Numbers typed at intervals: a time, and what each conductor read then. */
export function TypedForm({ callId, usual }: Props) {
  const client = useQueryClient()
  const [title, setTitle] = useState('Typed readings')
  const [rows, setRows] = useState<string[][]>(() => Array.from({ length: ROWS }, () => ['', ...usual.map(() => '')]))
  const send = useMutation({
    mutationFn: (told: string[][]) => {
      const numbers = told.map((row) => row.map((cell) => numberOf(cell).value))
      const used = usual.flatMap((_, i) => (numbers.some((row) => row[i + 1] !== null) ? [i] : []))
      return answered(
        api.POST('/api/calls/{call_id}/typed-load-tests', {
          params: { path: { call_id: callId } },
          body: {
            id: crypto.randomUUID(),
            title: title.trim() || 'Typed readings',
            channels: used.flatMap((i) => usual[i] ?? []),
            seconds: numbers.map((row) => 60 * (row[0] ?? 0)),
            values: used.map((i) => numbers.map((row) => row[i + 1] ?? null)),
          },
        }),
      )
    },
    onSuccess: (kept) => {
      setRows(Array.from({ length: ROWS }, () => ['', ...usual.map(() => '')]))
      return hold(client, loadTests(callId).queryKey, kept)
    },
  })
  const told = rows.filter((row) => row.some((cell) => cell.trim()))
  const wrong = told.flat().find((cell) => numberOf(cell).why)
  const timeless = told.some((row) => !row[0]?.trim())
  const why =
    wrong !== undefined
      ? numberOf(wrong).why
      : timeless
        ? 'Give each row its minutes.'
        : told.length < 3
          ? 'Three rows are the least: at rest, loaded, and later.'
          : ''
  const type = (r: number, c: number, text: string) =>
    setRows((before) => {
      const next = before.map((row, i) => (i === r ? row.map((cell, k) => (k === c ? text : cell)) : row))
      return r === next.length - 1 && text ? [...next, ['', ...usual.map(() => '')]] : next
    })
  const names = ['Minutes', ...usual.map((one) => `${one.lanes.join(' to ')}, ${UNITS[one.kind]}`)]
  return (
    <>
      <div className="load-form">
        <TextField label="Name" value={title} set={setTitle} most={80} />
      </div>
      <div className="typed-grid">
        <table>
          <thead>
            <tr>
              {names.map((name) => (
                <th key={name} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, r) => (
              <tr key={r}>
                {row.map((cell, c) => (
                  <td key={names[c]}>
                    <Input
                      className="num"
                      inputMode="decimal"
                      autoComplete="off"
                      aria-label={`${names[c]}, row ${r + 1}`}
                      value={cell}
                      status={numberOf(cell).why ? 'error' : ''}
                      onChange={(event) => type(r, c, event.target.value)}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {told.length && why ? <p className="quiet">{why}</p> : null}
      {send.error ? (
        <p className="problem" role="alert">
          {messageOf(send.error, 'It was not kept: try again.')}
        </p>
      ) : null}
      <Button type="primary" size="large" disabled={why !== ''} loading={send.isPending} onClick={() => send.mutate(told)}>
        What does it mean?
      </Button>
    </>
  )
}

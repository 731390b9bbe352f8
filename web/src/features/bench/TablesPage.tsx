import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { tables } from '../../api/queries'
import type { Table } from '../../api/schema.gen'
import { FrameTitle } from '../../shared/FrameTitle'
import { Failed, Loading } from '../../shared/states'
import { american, cellWords, rowsThatHold } from './tables'

/** The published tables, searchable, each with its source and standing. */
export default function TablesPage() {
  const { data, error, refetch } = useQuery(tables)
  const [sought, setSought] = useState('')
  const shown = (data ?? []).map((table) => ({ table, rows: rowsThatHold(table, sought) })).filter(({ rows }) => rows.length > 0)
  return (
    <div className="page ratings">
      <FrameTitle title="Tables">
        <span className="grow">Tables</span>
      </FrameTitle>
      <label className="search">
        Look for
        <input type="search" value={sought} placeholder="10 AWG copper, torque, 208 …" onChange={(event) => setSought(event.target.value)} />
      </label>
      {data ? null : error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the tables" />}
      {data && shown.length === 0 ? <p className="page-state">No table has “{sought}”. Try one word, or a size like “10 AWG”.</p> : null}
      {shown.map(({ table, rows }) => (
        <Shown key={table.key} table={table} rows={rows} open={sought.trim() !== ''} />
      ))}
    </div>
  )
}

function Shown({ table, rows, open }: { table: Table; rows: Table['rows']; open: boolean }) {
  return (
    <details className="standing" key={String(open)} open={open}>
      <summary>
        {table.title} <span className="num">{rows.length}</span>
      </summary>
      <p className="quiet">
        {table.source}; {table.standing}.
      </p>
      <div className="wide-table" tabIndex={0} role="region" aria-label={table.title}>
        <table>
          <thead>
            <tr>
              {table.columns.map((column, i) => (
                <th key={column} scope="col">
                  {american(column)} <span className="quiet">{table.units[i]}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row, i) => (
              <tr key={i}>
                {row.map((cell, j) => (
                  <td key={j} className={typeof cell === 'number' ? 'num' : ''}>
                    {cellWords(table, cell, j)}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </details>
  )
}

import { useQuery } from '@tanstack/react-query'
import { Table as Grid } from 'antd'
import { useState } from 'react'

import { tables } from '../../api/queries'
import type { Table } from '../../api/schema.gen'
import { SearchField } from '../../shared/fields'
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
      <SearchField label="Look for" value={sought} set={setSought} placeholder="10 AWG copper, torque, 208 …" />
      {data ? null : error ? <Failed error={error} retry={() => void refetch()} /> : <Loading what="the tables" />}
      {data && shown.length === 0 ? <p className="page-state">No table has “{sought}”. Try one word, or a size like “10 AWG”.</p> : null}
      {shown.map(({ table, rows }) => (
        <Shown key={table.key} table={table} rows={rows} open={sought.trim() !== ''} />
      ))}
    </div>
  )
}

/** Rows of a page; what is longer is turned over, or narrowed by a word. */
const MOST_ROWS = 20

type Row = { key: number; cells: Table['rows'][number] }

function Shown({ table, rows, open }: { table: Table; rows: Table['rows']; open: boolean }) {
  return (
    <details className="standing" key={String(open)} open={open}>
      <summary>
        <span className="grow">{table.title}</span>{' '}
        <span className="quiet">
          <span className="num">{rows.length}</span> {rows.length === 1 ? 'row' : 'rows'}
        </span>
      </summary>
      <p className="quiet">
        {table.source}; {table.standing}.
      </p>
      <div className="wide-table" tabIndex={0} role="region" aria-label={table.title}>
        <Grid<Row>
          size="small"
          pagination={rows.length > MOST_ROWS ? { pageSize: MOST_ROWS, showSizeChanger: false } : false}
          dataSource={rows.map((cells, key) => ({ key, cells }))}
          columns={table.columns.map((column, j) => ({
            key: column,
            title: (
              <>
                {american(column)} <span className="quiet">{table.units[j]}</span>
              </>
            ),
            render: (_: unknown, { cells }: Row) => {
              const cell = cells[j] ?? ''
              return <span className={typeof cell === 'number' ? 'num' : ''}>{cellWords(table, cell, j)}</span>
            },
          }))}
        />
      </div>
    </details>
  )
}

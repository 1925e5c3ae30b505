// What differs, a row each: where, how it is on one side, how on the other.
import type { Difference } from '@/game/difference'
import { DataTable } from './table/DataTable'

export interface Differing extends Difference {
  /** The name of what it is a part of. */
  of: string
}

export function Differences({
  label,
  rows,
  sides: [before, after] = ['before', 'after'],
}: {
  label: string
  rows: Differing[]
  sides?: [string, string]
}) {
  return (
    <DataTable
      label={label}
      rows={rows}
      keyOf={(row) => `${row.of}/${row.path}/${row.where}`}
      columns={[
        {
          id: 'where',
          head: 'where',
          align: 'left',
          value: (row) => `${row.of}, ${row.where}`,
          cell: (row) => (
            <>
              <span className="name">{row.of}</span>, {row.where}
            </>
          ),
        },
        { id: 'before', head: before, align: 'left', className: 'num', value: (row) => row.before },
        { id: 'after', head: after, align: 'left', className: 'num', value: (row) => row.after },
      ]}
    />
  )
}

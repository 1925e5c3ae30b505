// What differs, a row each: where, how it is on one side, how on the other.
import type { Difference } from '@/game/difference'
import { DataTable } from './table/DataTable'

export interface Differing extends Difference {
  /** The name of what it is a part of. */
  of: string
  /** And what that is, as "kind/id". */
  entity?: string
}

export function Differences({
  label,
  rows,
  sides: [before, after] = ['before', 'after'],
  choice,
}: {
  label: string
  rows: Differing[]
  sides?: [string, string]
  /** Where some of them can be taken. */
  choice?: { isOn: (row: Differing) => boolean; toggle: (row: Differing) => void }
}) {
  return (
    <DataTable
      label={label}
      rows={rows}
      keyOf={(row) => `${row.of}/${row.path}/${row.where}`}
      columns={[
        ...(choice
          ? [
              {
                id: 'take',
                head: 'take',
                align: 'left' as const,
                value: (row: Differing) => (choice.isOn(row) ? 'yes' : ''),
                cell: (row: Differing) => (
                  <input
                    type="checkbox"
                    aria-label={`take ${row.of}, ${row.where}`}
                    checked={choice.isOn(row)}
                    onChange={() => choice.toggle(row)}
                  />
                ),
              },
            ]
          : []),
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

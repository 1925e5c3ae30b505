// The column that most grids begin with: what each row is called, behind its mark.
import type { ReactNode } from 'react'
import type { Column } from './columns'

export function nameColumn<Row extends { name: string }>(
  noun: string, // with its article, as in "a tier"
  width: string,
  mark?: (row: Row) => ReactNode,
): Column<Row> {
  return {
    key: 'name',
    head: 'name',
    label: 'name',
    width,
    text: (row) => row.name,
    show: (row) => (
      <span className="flex min-w-0 items-center gap-2">
        {mark?.(row)}
        <span className="name truncate text-item">{row.name}</span>
      </span>
    ),
    enter: (row, text) => (text.trim() ? { ...row, name: text.trim() } : `${noun} has a name`),
  }
}

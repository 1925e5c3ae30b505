// Some of the rows, in another order, to look at: never an edit. A view is made when it is asked for; rows stay where
// they are in it while one edits, and what is made meanwhile stands behind them.
import { useState } from 'react'
import { typedNumber } from '@/text/numbers'
import type { Column } from './columns'

export interface Sorting {
  column: string
  isDown: boolean
}

/** As a column says, numbers by size; rows that say the same keep their order. */
export function sortedBy<Row>(rows: Row[], column: Column<Row>, isDown: boolean): Row[] {
  const said = rows.map((row, at) => ({ row, at, key: keyOf(column, row) }))
  const by = isDown ? -1 : 1
  said.sort((a, b) => by * compared(a.key, b.key) || a.at - b.at)
  return said.map(({ row }) => row)
}

const keyOf = <Row>(column: Column<Row>, row: Row): string | number => {
  const text = column.text(row)
  return (column.align === 'right' ? typedNumber(text) : null) ?? text.toLowerCase()
}

function compared(a: string | number, b: string | number): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b
  return String(a).localeCompare(String(b), undefined, { numeric: true })
}

/** Rows by the ids of a view: those that are gone are left out, new ones stand last. */
export function inView<Row>(
  rows: Row[],
  idOf: (row: Row) => string,
  seen: ReadonlySet<string>,
  order: string[],
): Row[] {
  const byId = new Map(rows.map((row) => [idOf(row), row]))
  const made = rows.filter((row) => !seen.has(idOf(row)))
  return [...order.flatMap((id) => byId.get(id) ?? []), ...made]
}

interface Looking<Row> {
  rows: Row[]
  columns: Column<Row>[]
  idOf: (row: Row) => string
  /** What is looked for, as a word: another word is another view. */
  filter: string
  fits: (row: Row) => boolean
  sorting: Sorting | null
}

/** The rows of a view. */
export function useView<Row>(looking: Looking<Row>): Row[] {
  const { rows, columns, idOf, filter, fits, sorting } = looking
  const made = () => {
    const column = columns.find((one) => one.key === sorting?.column)
    const some = filter ? rows.filter(fits) : rows
    const order = column && sorting ? sortedBy(some, column, sorting.isDown) : some
    return { seen: new Set(rows.map(idOf)), order: order.map(idOf) }
  }
  const asked = `${filter}\n${sorting?.column ?? ''}\n${sorting?.isDown ?? ''}`
  const [view, setView] = useState(() => ({ asked, ...made() }))
  let current = view
  if (view.asked !== asked) {
    current = { asked, ...made() }
    setView(current)
  }
  return filter || sorting ? inView(rows, idOf, current.seen, current.order) : rows
}

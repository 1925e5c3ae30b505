// Where the keyboard is in a grid: cells by the ids of their row and column, so that rows which come, go or
// move take nothing with them that was not theirs.
import { useLayoutEffect, useMemo, useRef, useState } from 'react'
import { blockOf, type Block, type Column, type Place } from './columns'

export interface Cell {
  row: string
  column: string
}

export interface Places {
  active: Cell | null
  anchor: Cell | null
  /** The active cell, and the block from the anchor to it, by number. */
  at: Place | null
  block: Block | null
  rowOf: (id: string) => number
  setPlace: (active: Cell | null, anchor?: Cell | null) => void
}

export function usePlaces<Row>(
  rows: Row[],
  columns: Column<Row>[],
  idOf: (row: Row) => string,
): Places {
  const [{ active, anchor }, setCells] = useState<Record<'active' | 'anchor', Cell | null>>({
    active: null,
    anchor: null,
  })
  const index = useMemo(() => new Map(rows.map((row, at) => [idOf(row), at])), [rows, idOf])
  const placeOf = (cell: Cell | null): Place | null => {
    const row = cell ? index.get(cell.row) : undefined
    const column = columns.findIndex((one) => one.key === cell?.column)
    return row === undefined || column < 0 ? null : { row, column }
  }
  const at = placeOf(active)
  const from = placeOf(anchor) ?? at

  // Where the active row has gone, its neighbour takes its place.
  const last = useRef(0)
  const row = at?.row ?? -1
  useLayoutEffect(() => {
    if (row >= 0) last.current = row
    else if (active && rows.length) {
      const neighbour = rows[Math.min(last.current, rows.length - 1)] as Row
      setCells({ active: { ...active, row: idOf(neighbour) }, anchor: null })
    }
  }, [row, active, rows, idOf])
  return {
    active,
    anchor,
    at,
    block: at && from && blockOf(from, at),
    rowOf: (id) => index.get(id) ?? -1,
    setPlace: (next, start = next) => setCells({ active: next, anchor: start }),
  }
}

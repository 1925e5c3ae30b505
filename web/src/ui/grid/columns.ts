// What a grid is made of. Rows are bodies; a column says how a cell reads and what typing does.
import type { ReactNode } from 'react'
import type { Failure } from '@/game/store'
import { commasIn, plainly } from '../numbers'

export interface Suggestion {
  text: string
  mark?: ReactNode
  note?: string
}

export interface Column<Row> {
  key: string
  head: ReactNode
  /** Spoken name of the column. */
  label: string
  /** A CSS grid track. */
  width: string
  align?: 'left' | 'right'
  /** What is copied, and what editing begins with. */
  text: (row: Row) => string
  show?: (row: Row) => ReactNode
  /** An entered cell: the row with this typed, or why it cannot be. */
  enter?: (row: Row, text: string) => Row | string
  /** An answer cell: the server finds what makes it true. */
  answer?: (row: Row, text: string) => Promise<Failure | null>
  suggest?: (text: string) => Suggestion[]
  title?: (row: Row) => string | undefined
  /** What is odd about the cell: a mark in its corner, and these words on hover. */
  odd?: (row: Row) => string | undefined
}

export interface Place {
  row: number
  column: number
}

export interface Block {
  top: number
  bottom: number
  left: number
  right: number
}

export function blockOf(anchor: Place, active: Place): Block {
  return {
    top: Math.min(anchor.row, active.row),
    bottom: Math.max(anchor.row, active.row),
    left: Math.min(anchor.column, active.column),
    right: Math.max(anchor.column, active.column),
  }
}

export function inBlock(block: Block, row: number, column: number): boolean {
  return row >= block.top && row <= block.bottom && column >= block.left && column <= block.right
}

/** A block as a spreadsheet takes it: cells by tabs, rows by line ends. */
export function copied<Row>(rows: Row[], columns: Column<Row>[], block: Block): string {
  return rows
    .slice(block.top, block.bottom + 1)
    .map((row) =>
      columns
        .slice(block.left, block.right + 1)
        .map((column) => column.text(row).replace(/[\t\n]/g, ' '))
        .join('\t'),
    )
    .join('\n')
}

export function pastedCells(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n')
  return lines.map((line) => line.split('\t'))
}

/**
 * The rows with cells pasted from a place on; rows beyond the end are made anew. A first row of the
 * columns' names says which is which; an empty cell leaves what is there. Answers are not pasted: they are
 * results. Gives the sentence that says what does not fit, where it does not.
 */
export function pasted<Row>(
  rows: Row[],
  columns: Column<Row>[],
  at: Place,
  cells: string[][],
  newRow?: (rows: Row[]) => Row,
): Row[] | string {
  const result = [...rows]
  const commas = commasIn(cells.flat())
  const named = namedIn(columns, cells[0] ?? [])
  const across = named ?? columns.slice(at.column)
  const lines = named ? cells.slice(1) : cells
  for (const [down, line] of lines.entries()) {
    let row = result[at.row + down]
    if (row === undefined) {
      if (!newRow) return 'there is no room for so many rows'
      row = newRow(result)
      result.push(row)
    }
    for (const [number, text] of line.entries()) {
      const column = across[number]
      if (!column?.enter || !text.trim()) continue
      const entered: Row | string = column.enter(row, plainly(text, commas))
      if (typeof entered === 'string') return `row ${down + 1}, ${column.label}: ${entered}`
      row = entered
    }
    result[at.row + down] = row
  }
  return result
}

/** The columns that a head row names, in its order; null where it is no head row. */
function namedIn<Row>(columns: Column<Row>[], head: string[]): (Column<Row> | undefined)[] | null {
  const names = (column: Column<Row>) =>
    [column.key, column.label, typeof column.head === 'string' ? column.head : ''].map((name) =>
      name.toLowerCase(),
    )
  const found = head.map((cell) => {
    const wanted = cell.trim().toLowerCase()
    return wanted ? columns.find((column) => names(column).includes(wanted)) : undefined
  })
  const isHead = head.length > 0 && head.every((cell, at) => !cell.trim() || found[at])
  return isHead && found.some(Boolean) ? found : null
}

/** The top cells of a block repeated down through it. */
export function filledDown<Row>(rows: Row[], columns: Column<Row>[], block: Block): Row[] | string {
  const top = rows[block.top]
  if (top === undefined) return rows
  const line = columns.slice(block.left, block.right + 1).map((column) => column.text(top))
  const cells = Array.from({ length: block.bottom - block.top }, () => line)
  return pasted(rows, columns, { row: block.top + 1, column: block.left }, cells)
}

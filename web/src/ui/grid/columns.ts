// What a grid is made of. Rows are bodies; a column says how a cell reads and what typing does.
import type { ReactNode } from 'react'
import type { Failure } from '@/game/store'

export interface Suggestion {
  text: string
  mark?: ReactNode
  note?: string
}

/** A thing that is not there yet, and could be. */
export interface Offer {
  kind: string
  name: string
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
  answer?: (row: Row, text: string) => PromiseLike<Failure | null>
  suggest?: (text: string) => Suggestion[]
  /** What could be made, so that a text that `enter` refuses is understood. */
  offer?: (text: string) => Offer | undefined
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

/** Numbers stand to the right; letters typed over them are the page's own keys. */
export function takesLetters<Row>(column: Column<Row>): boolean {
  return column.align !== 'right' && (column.enter ?? column.answer) !== undefined
}

export function startsNumber<Row>(column: Column<Row>, key: string): boolean {
  return (column.enter ?? column.answer) !== undefined && /^[\d.,+\-−×=%]$/.test(key)
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

// What a pasted block would do to a grid's rows: told before it is done.
import { commasIn, plainly } from '@/text/numbers'
import type { Block, Column, Offer, Place } from './columns'

export interface PastePlan<Row> {
  /** The rows as they would be; cells that are refused stay as they are. */
  rows: Row[]
  /** Rows that there were, of which a cell changes; rows that are made. */
  changed: number
  added: number
  cells: PastedCell[]
  /** What is named and not there, each once. */
  offers: Offer[]
  /** The columns' names stood in the first row. */
  hasHead: boolean
  /** Rows that find no room. */
  lost: number
}

export interface PastedCell {
  row: number
  isNew: boolean
  column: string
  before: string
  /** As it was pasted, and why it cannot be; or null. */
  after: string
  refused: string | null
}

export function pastedCells(text: string): string[][] {
  const lines = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n')
  return lines.map((line) => line.split('\t'))
}

/**
 * Cells pasted from a place on; rows beyond the end are made anew. A first row of the columns' names says
 * which is which; an empty cell leaves what is there. Answers are not pasted: they are results.
 */
export function planned<Row>(
  rows: Row[],
  columns: Column<Row>[],
  at: Place,
  cells: string[][],
  newRow?: (rows: Row[]) => Row,
): PastePlan<Row> {
  const commas = commasIn(cells.flat())
  const named = namedIn(columns, cells[0] ?? [])
  const across = named ?? columns.slice(at.column)
  const lines = named ? cells.slice(1) : cells
  const plan: PastePlan<Row> = {
    rows: [...rows],
    changed: 0,
    added: 0,
    cells: [],
    offers: [],
    hasHead: named !== null,
    lost: 0,
  }
  lines.forEach((line, down) => {
    const number = at.row + down
    const old = rows[number]
    if (old === undefined && !newRow) return void (plan.lost += 1)
    const start = old ?? newRow?.(plan.rows)
    if (start === undefined) return
    const row = withCells(plan, start, { number, isNew: old === undefined }, across, line, (text) =>
      plainly(text, commas),
    )
    plan.rows[number] = row
    if (old === undefined) plan.added += 1
    else if (row !== old) plan.changed += 1
  })
  return plan
}

function withCells<Row>(
  plan: PastePlan<Row>,
  start: Row,
  { number, isNew }: { number: number; isNew: boolean },
  across: (Column<Row> | undefined)[],
  line: string[],
  read: (text: string) => string,
): Row {
  let row = start
  line.forEach((text, place) => {
    const column = across[place]
    if (!column?.enter || !text.trim()) return
    const before = column.text(row)
    const entered: Row | string = column.enter(row, read(text))
    const refused = typeof entered === 'string' ? entered : null
    if (typeof entered !== 'string') row = entered
    if (refused === null && text === before) return
    plan.cells.push({ row: number, isNew, column: column.label, before, after: text, refused })
    const offer = refused === null ? undefined : column.offer?.(text)
    if (offer && !plan.offers.some((one) => same(one, offer))) plan.offers.push(offer)
  })
  return row
}

const same = (a: Offer, b: Offer) =>
  a.kind === b.kind && a.name.toLowerCase() === b.name.toLowerCase()

/** The sentence that says what does not fit; null where all of it does. */
export function refusalOf<Row>(plan: PastePlan<Row>): string | null {
  if (plan.lost) return 'there is no room for so many rows'
  const cell = plan.cells.find((one) => one.refused !== null)
  return cell ? `row ${cell.row + 1}, ${cell.column}: ${cell.refused}` : null
}

/** Whether it says for itself what it does: cells that are there, each of which takes what is pasted. */
export function isPlain<Row>(plan: PastePlan<Row>): boolean {
  return !plan.added && !plan.hasHead && refusalOf(plan) === null
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

/** The top cells of a block repeated down through it; or why they cannot be. */
export function filledDown<Row>(rows: Row[], columns: Column<Row>[], block: Block): Row[] | string {
  const top = rows[block.top]
  if (top === undefined) return rows
  const line = columns.slice(block.left, block.right + 1).map((column) => column.text(top))
  const cells = Array.from({ length: block.bottom - block.top }, () => line)
  const plan = planned(rows, columns, { row: block.top + 1, column: block.left }, cells)
  return refusalOf(plan) ?? plan.rows
}

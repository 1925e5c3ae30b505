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
  /** What each pasted column is: what stands over it, and the key of the column; null of what is left out. */
  across: { head: string; column: string | null }[]
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

/** Which column each pasted one is, by its place; null leaves it out. What is not chosen is found out. */
export type Chosen = Record<number, string | null>

/**
 * Cells pasted from a place on; rows beyond the end are made anew. A first row of the columns' names, or of
 * other usual words for them, says which is which, in any order; an empty cell leaves what is there. Answers are
 * not pasted: they are results.
 */
export function planned<Row>(
  rows: Row[],
  columns: Column<Row>[],
  at: Place,
  cells: string[][],
  newRow?: (rows: Row[]) => Row,
  chosen: Chosen = {},
): PastePlan<Row> {
  const commas = commasIn(cells.flat())
  const named = namedIn(columns, cells)
  const found: (Column<Row> | undefined)[] = named ?? columns.slice(at.column)
  const wide = Math.max(0, ...cells.map((line) => line.length))
  const across = Array.from({ length: wide }, (_, place) =>
    place in chosen ? columns.find((one) => one.key === chosen[place]) : found[place],
  )
  const lines = named ? cells.slice(1) : cells
  const plan: PastePlan<Row> = {
    rows: [...rows],
    changed: 0,
    added: 0,
    cells: [],
    offers: [],
    hasHead: named !== null,
    across: across.map((column, place) => ({
      head: (named ? cells[0]?.[place] : undefined) ?? '',
      column: column?.key ?? null,
    })),
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
    if (text === before) return // one's own, copied and put back
    const entered: Row | string = column.enter(row, read(text))
    const refused = typeof entered === 'string' ? entered : null
    if (typeof entered !== 'string') row = entered
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

/** What people call columns besides their names here, by the key. */
const ALSO: Record<string, string[]> = {
  name: ['item', 'thing', 'title', 'what', 'label', 'item name'],
  gives: ['item', 'name', 'drop', 'loot', 'what', 'reward', 'result'],
  tier: ['rarity', 'grade', 'quality', 'class', 'level'],
  value: ['worth', 'price', 'cost', 'sells for', 'sell value'],
  stack: ['stack', 'stack size', 'max stack', 'stacks to', 'stackable'],
  tags: ['tag', 'kind', 'type', 'category', 'group', 'groups', 'keywords'],
  cells: ['size', 'room', 'slots', 'space'],
  quantity: ['amount', 'count', 'qty', 'how many', 'number', 'units', 'min-max'],
  entry: [
    'weight',
    'weights',
    'chance',
    'odds',
    'probability',
    'rate',
    'drop rate',
    'drop chance',
    '%',
    'share',
  ],
  abundance: ['frequency', 'commonness'],
  money: ['currency', 'is money'],
}

/**
 * The columns that a head row names, in its order, nothing for what is none of them; null where it is no head
 * row. It is one where all its words are known; or some are, it holds no number, and others do.
 */
function namedIn<Row>(
  columns: Column<Row>[],
  cells: string[][],
): (Column<Row> | undefined)[] | null {
  const head = cells[0] ?? []
  const names = (column: Column<Row>) => [
    ...[column.key, column.label, typeof column.head === 'string' ? column.head : ''],
    ...(ALSO[column.key] ?? []),
  ]
  const taken = new Set<string>()
  const named = (cell: string, of: (column: Column<Row>) => string[]) => {
    const wanted = cell.trim().toLowerCase()
    const column = columns.find(
      (one) => !taken.has(one.key) && of(one).some((name) => name.toLowerCase() === wanted),
    )
    if (column && wanted) taken.add(column.key)
    return wanted ? column : undefined
  }
  const found = head.map((cell) => named(cell, (one) => names(one).slice(0, 3)))
  head.forEach((cell, at) => (found[at] ??= named(cell, names)))
  const known = found.filter(Boolean).length
  if (!known || cells.length < 2) return known === head.length && known > 1 ? found : null
  if (head.every((cell, at) => !cell.trim() || found[at])) return found
  const hasNumber = (line: string[]) => line.some((cell) => /\d/.test(cell))
  return known > 1 && !hasNumber(head) && cells.slice(1).some(hasNumber) ? found : null
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

// What a grid knows: where the keyboard is, what is being typed, what is about to be pasted. Pure: an event gives
// another state, and what is to be done about it. Cells are held by the ids of their row and column, so that rows
// which come, go or move take nothing with them that was not theirs.
import { blockOf, type Block, type Column, type Offer, type Place } from './columns'
import type { KeyAct } from './keys'
import { filledDown, isPlain, planned, type Chosen, type PastePlan } from './pasting'
import { inserted, shifted } from './rows'

export interface Cell {
  row: string
  column: string
}

/** How a cell is closed: `left` is the keyboard's going elsewhere. */
export type Closing = 'Enter' | 'Tab' | 'left'

/** The open cell. `H` is what holds the game as it was when it was opened. */
export interface Editor<H = unknown> {
  cell: Cell
  /** What stood there, what is typed now. */
  began: string
  text: string
  /** Typing began it: what is typed takes the place of what stood there. */
  isFresh: boolean
  /** Why it was refused. */
  problem: string
  held: H
}

/** A block that was pasted, and the rows that it was pasted into, as they were. */
export interface Pasting<Row, H = unknown> {
  cells: string[][]
  from: Place
  rows: Row[]
  held: H
}

export interface GridState<Row, H = unknown> {
  active: Cell | null
  anchor: Cell | null
  /** Where the active row stood when it was seen last. */
  last: number
  editor: Editor<H> | null
  pasting: Pasting<Row, H> | null
}

/** The grid as it is drawn now. */
export interface Drawn<Row> {
  rows: Row[]
  columns: Column<Row>[]
  idOf: (row: Row) => string
  nameOf: (row: Row) => string
  noun: string
  newRow?: (rows: Row[]) => Row
  copyOf?: (row: Row, rows: Row[]) => Row
  /** Not all rows are drawn, or not in their order: then none is carried elsewhere. */
  isPart?: boolean
  /** The columns that know what is made along with what is pasted. */
  columnsWith?: (made: Offer[]) => Column<Row>[]
}

export type GridEvent<H = unknown> =
  | { type: 'rows' }
  | { type: 'go'; cell: Cell; extend: boolean }
  | { type: 'key'; act: KeyAct; held: H }
  | { type: 'open'; text: string | null; held: H }
  | { type: 'typed'; text: string }
  | { type: 'take'; how: Closing; text?: string }
  | { type: 'give up' }
  | { type: 'refused'; editor: Editor<H>; problem: string }
  | { type: 'add' }
  | { type: 'copy' | 'remove'; row: string }
  | { type: 'carry'; from: number; to: number }
  | { type: 'paste'; cells: string[][]; held: H }
  | { type: 'take pasted'; made: Offer[]; chosen: Chosen }
  | { type: 'leave pasted' }

type Rows<Row> = (rows: Row[]) => Row[]

export type GridEffect<Row, H = unknown> =
  /** `editor` is what it was typed into, to be put back if it is refused. */
  | { do: 'save'; label: string; changed: Rows<Row>; held?: H; editor?: Editor<H>; made?: Offer[] }
  | { do: 'answer'; column: Column<Row>; row: Row; editor: Editor<H> }
  | { do: 'sketch'; changed: Rows<Row> | null; held?: H }
  | { do: 'remove'; rows: Row[] }
  /** The keyboard is to be where the active cell is. */
  | { do: 'focus' }
  /** Something in the active cell is pressed: what can be pressed there, or the row's menu. */
  | { do: 'press'; what: 'button' | 'menu' }
  | { do: 'told'; row: Row }
  | { do: 'refuse'; why: string }
  | { do: 'lost'; where: string; text: string; why: string }

type Step<Row, H> = [GridState<Row, H>, GridEffect<Row, H>[]]

export function emptyGrid<Row, H>(): GridState<Row, H> {
  return { active: null, anchor: null, last: 0, editor: null, pasting: null }
}

export function reducedGrid<Row, H>(
  state: GridState<Row, H>,
  event: GridEvent<H>,
  drawn: Drawn<Row>,
): Step<Row, H> {
  switch (event.type) {
    case 'rows':
      return withRowsGone(state, drawn)
    case 'go':
      return gone(state, event.cell, event.extend, drawn)
    case 'key':
      return pressed(state, event.act, event.held, drawn)
    case 'open':
      return opened(state, event.text, event.held, drawn)
    case 'typed':
      return typed(state, event.text, drawn)
    case 'take':
      return taken(state, event.how, event.text, drawn)
    case 'give up':
      return [{ ...state, editor: null }, [UNSKETCHED, { do: 'focus' }]]
    case 'refused':
      return refused(state, event.editor, event.problem, drawn)
    case 'add':
      return added(state, drawn)
    case 'copy':
      return [state, copied(rowOf(drawn, event.row), drawn)]
    case 'remove':
      return removed(state, rowOf(drawn, event.row), rowOf(drawn, event.row), drawn)
    case 'carry':
      return [state, moved(event.from, event.from, event.to - event.from, drawn)]
    case 'paste':
      return pasted(state, event.cells, event.held, drawn)
    case 'take pasted':
      return pastedTaken(state, event.made, event.chosen, drawn)
    case 'leave pasted':
      return [{ ...state, pasting: null }, [{ do: 'focus' }]]
  }
}

// --- where the keyboard is -----------------------------------------------------------------------------

const rowOf = <Row>({ rows, idOf }: Drawn<Row>, id: string) =>
  rows.findIndex((row) => idOf(row) === id)

/** The active cell, and the block from the anchor to it, by number. */
export function placesOf<Row, H>(
  { active, anchor }: GridState<Row, H>,
  drawn: Drawn<Row>,
): { at: Place; block: Block } | null {
  const placeOf = (cell: Cell | null): Place | null => {
    const row = cell ? rowOf(drawn, cell.row) : -1
    const column = drawn.columns.findIndex((one) => one.key === cell?.column)
    return row < 0 || column < 0 ? null : { row, column }
  }
  const at = placeOf(active)
  return at && { at, block: blockOf(placeOf(anchor) ?? at, at) }
}

/** Another cell is gone to; what is typed in an open one is taken before. */
function gone<Row, H>(
  state: GridState<Row, H>,
  cell: Cell,
  extend: boolean,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const isOpen = state.editor && !state.editor.problem && !sameCell(state.editor.cell, cell)
  const [before, effects] = isOpen ? taken(state, 'left', undefined, drawn) : [state, []]
  const at = rowOf(drawn, cell.row)
  const row = drawn.rows[at]
  if (row === undefined) return [before, effects]
  const anchor = extend ? (before.anchor ?? before.active ?? cell) : cell
  return [{ ...before, active: cell, anchor, last: at }, [...effects, { do: 'told', row }]]
}

const sameCell = (a: Cell, b: Cell) => a.row === b.row && a.column === b.column

function goneTo<Row, H>(
  state: GridState<Row, H>,
  { row, column }: Place,
  extend: boolean,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const within = (n: number, many: number) => Math.max(0, Math.min(many - 1, n))
  const found = drawn.rows[within(row, drawn.rows.length)]
  const key = drawn.columns[within(column, drawn.columns.length)]?.key
  if (found === undefined || key === undefined) return [state, []]
  return gone(state, { row: drawn.idOf(found), column: key }, extend, drawn)
}

/** Rows have come or gone. What was typed into one that is gone is told; its neighbour takes its place. */
function withRowsGone<Row, H>(state: GridState<Row, H>, drawn: Drawn<Row>): Step<Row, H> {
  const { editor, active } = state
  const isLost = editor !== null && rowOf(drawn, editor.cell.row) < 0
  const lost = isLost ? [...toldLost(editor, 'its row was removed', drawn), UNSKETCHED] : []
  const next = isLost ? { ...state, editor: null } : state
  if (!active) return [next, lost]
  const at = rowOf(drawn, active.row)
  if (at >= 0) return [at === next.last ? next : { ...next, last: at }, lost]
  const neighbour = drawn.rows[Math.min(state.last, drawn.rows.length - 1)]
  if (neighbour === undefined) return [{ ...next, active: null, anchor: null }, lost]
  const cell = { ...active, row: drawn.idOf(neighbour) }
  const last = rowOf(drawn, cell.row)
  return [{ ...next, active: cell, anchor: null, last }, isLost ? [...lost, { do: 'focus' }] : lost]
}

function toldLost<Row, H>(editor: Editor<H>, why: string, drawn: Drawn<Row>): GridEffect<Row, H>[] {
  if (editor.text === editor.began) return []
  return [{ do: 'lost', where: whereOf(editor.cell, drawn), text: editor.text, why }]
}

function whereOf<Row>({ row, column }: Cell, drawn: Drawn<Row>): string {
  const label = drawn.columns.find((one) => one.key === column)?.label ?? column
  const found = drawn.rows[rowOf(drawn, row)]
  return found === undefined ? label : `${label} of ${drawn.nameOf(found)}`
}

// --- an open cell --------------------------------------------------------------------------------------

/** Open the active cell; one that is not typed into has something to press. */
function opened<Row, H>(
  state: GridState<Row, H>,
  text: string | null,
  held: H,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const place = placesOf(state, drawn)?.at
  const [row, column] = [drawn.rows[place?.row ?? -1], drawn.columns[place?.column ?? -1]]
  if (!state.active || row === undefined || !column) return [state, []]
  if (!column.enter && !column.answer)
    return [state, text === null ? [{ do: 'press', what: 'button' }] : []]
  const { editor } = state
  if (editor && sameCell(editor.cell, state.active)) return [state, [{ do: 'focus' }]]
  // Another cell's text was refused, and is given up for this one: it is told, to be copied.
  const lost = editor ? toldLost(editor, editor.problem || 'another cell was opened', drawn) : []
  const began = column.text(row)
  const cell = state.active
  const next = { cell, began, text: began, isFresh: text !== null, problem: '', held }
  const [made, effects] = typed({ ...state, editor: next }, text ?? began, drawn)
  return [made, [...lost, ...effects]]
}

/** What is typed is shown everywhere as it would be, where it can be told while one types. */
function typed<Row, H>(state: GridState<Row, H>, text: string, drawn: Drawn<Row>): Step<Row, H> {
  const { editor } = state
  if (!editor) return [state, []]
  const next = { ...state, editor: { ...editor, text, problem: '' } }
  const { row, column } = found(editor, drawn)
  if (row === undefined || !column?.enter || column.suggest || text === editor.began)
    return [next, text === editor.began ? [] : [UNSKETCHED]]
  const isSound = typeof column.enter(row, text) !== 'string'
  const changed = isSound ? entering(editor.cell.row, column, text, drawn) : null
  return [next, [{ do: 'sketch', changed, held: editor.held }]]
}

const UNSKETCHED = { do: 'sketch', changed: null } as const

function found<Row, H>({ cell }: Editor<H>, drawn: Drawn<Row>) {
  const row = drawn.rows[rowOf(drawn, cell.row)]
  return { row, column: drawn.columns.find((one) => one.key === cell.column) }
}

/** Rows with this typed into one of them. */
function entering<Row>(
  id: string,
  column: Column<Row>,
  text: string,
  { idOf }: Drawn<Row>,
): Rows<Row> {
  return (rows) =>
    rows.map((row) => {
      const entered = idOf(row) === id ? column.enter?.(row, text) : row
      return entered === undefined || typeof entered === 'string' ? row : entered
    })
}

/** Close at once and save behind it, so that fast fingers lose nothing. */
function taken<Row, H>(
  state: GridState<Row, H>,
  how: Closing,
  chosen: string | undefined,
  drawn: Drawn<Row>,
): Step<Row, H> {
  if (!state.editor) return [state, []]
  const editor = { ...state.editor, text: chosen ?? state.editor.text }
  const { row, column } = found(editor, drawn)
  if (row === undefined || !column) return withRowsGone(state, drawn)
  const saved = savedBy(editor, row, column, drawn)
  if (typeof saved === 'string')
    return [{ ...state, editor: { ...editor, problem: saved } }, [UNSKETCHED]]
  const closed = { ...state, editor: null }
  const effects: GridEffect<Row, H>[] = [...saved, UNSKETCHED]
  if (how === 'left') return [closed, effects]
  const at = { row: rowOf(drawn, editor.cell.row), column: drawn.columns.indexOf(column) }
  const to = how === 'Enter' ? { ...at, row: at.row + 1 } : { ...at, column: at.column + 1 }
  const [next, more] = goneTo(closed, to, false, drawn)
  return [next, [...effects, ...more, { do: 'focus' }]]
}

/** What is to be done with what was typed, or why it cannot be. */
function savedBy<Row, H>(
  editor: Editor<H>,
  row: Row,
  column: Column<Row>,
  drawn: Drawn<Row>,
): GridEffect<Row, H>[] | string {
  const { text, began, held, cell } = editor
  if (text === began) return []
  if (column.answer) return [{ do: 'answer', column, row, editor }]
  const entered = column.enter?.(row, text)
  if (entered === undefined) return []
  if (typeof entered === 'string') return entered
  const label = `${column.label} of ${drawn.nameOf(entered)}`
  const changed = entering(cell.row, column, text, drawn)
  return [{ do: 'save', label, changed, held, editor }]
}

/** What was typed could not be saved: it is put back where it was typed, with the reason. */
function refused<Row, H>(
  state: GridState<Row, H>,
  editor: Editor<H>,
  problem: string,
  drawn: Drawn<Row>,
): Step<Row, H> {
  if (state.editor || rowOf(drawn, editor.cell.row) < 0)
    return [state, toldLost(editor, problem, drawn)]
  const { cell } = editor
  return [{ ...state, active: cell, anchor: cell, editor: { ...editor, problem } }, []]
}

// --- rows ----------------------------------------------------------------------------------------------

function pressed<Row, H>(
  state: GridState<Row, H>,
  act: KeyAct,
  held: H,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const places = placesOf(state, drawn)
  if (!places) return [state, []]
  const { at, block } = places
  switch (act.do) {
    case 'go':
      return goneTo(state, act.to, act.extend, drawn)
    case 'move':
      return [state, moved(block.top, block.bottom, act.by, drawn)]
    case 'menu':
      return [state, [{ do: 'press', what: 'menu' }]]
    case 'fill down':
      return [state, filled(block, drawn)]
    case 'copy':
      return [state, copied(at.row, drawn)]
    case 'remove':
      return removed(state, block.top, block.bottom, drawn)
    case 'open':
      return opened(state, null, held, drawn)
    case 'type':
      return opened(state, act.text, held, drawn)
    case 'nothing':
      return [state, []]
  }
}

type Effects<Row, H> = GridEffect<Row, H>[]

function moved<Row, H>(
  top: number,
  bottom: number,
  by: number,
  { rows, noun, isPart }: Drawn<Row>,
): Effects<Row, H> {
  if (!by || !shifted(rows, top, bottom, by)) return []
  if (isPart)
    return [{ do: 'refuse', why: 'rows are carried where all are seen, in their own order' }]
  const changed = (now: Row[]) => shifted(now, top, bottom, by) ?? now
  return [{ do: 'save', label: `moved ${noun}`, changed }]
}

function copied<Row, H>(at: number, { rows, idOf, nameOf, copyOf }: Drawn<Row>): Effects<Row, H> {
  const row = rows[at]
  if (row === undefined || !copyOf) return []
  const behind = (now: Row[]) => now.findIndex((one) => idOf(one) === idOf(row))
  const changed = (now: Row[]) => inserted(now, copyOf(row, now), behind(now))
  return [{ do: 'save', label: `duplicated ${nameOf(row)}`, changed }]
}

function removed<Row, H>(
  state: GridState<Row, H>,
  top: number,
  bottom: number,
  { rows }: Drawn<Row>,
): Step<Row, H> {
  const gone = rows.slice(Math.max(0, top), bottom + 1)
  return [state, gone.length ? [{ do: 'remove', rows: gone }, { do: 'focus' }] : []]
}

function filled<Row, H>(block: Block, drawn: Drawn<Row>): Effects<Row, H> {
  const next = filledDown(drawn.rows, drawn.columns, block)
  if (typeof next === 'string') return [{ do: 'refuse', why: next }]
  return [{ do: 'save', label: 'filled down', changed: becoming(next, drawn) }]
}

/** Drawn rows as they should be, where all are: others stay, and new ones stand behind them. */
function becoming<Row>(next: Row[], { idOf }: Drawn<Row>): Rows<Row> {
  return (now) => {
    const wanted = new Map(next.map((row) => [idOf(row), row]))
    const kept = now.map((row) => wanted.get(idOf(row)) ?? row)
    const there = new Set(now.map(idOf))
    return [...kept, ...next.filter((row) => !there.has(idOf(row)))]
  }
}

function added<Row, H>(state: GridState<Row, H>, drawn: Drawn<Row>): Step<Row, H> {
  const [first] = drawn.columns
  if (!drawn.newRow || !first) return [state, []]
  const made = drawn.newRow(drawn.rows)
  const cell = { row: drawn.idOf(made), column: first.key }
  const changed = (now: Row[]) => [...now, made]
  const save = { do: 'save', label: `added ${drawn.noun}`, changed } as const
  return [
    { ...state, active: cell, anchor: cell, last: drawn.rows.length },
    [save, { do: 'focus' }],
  ]
}

// --- what is pasted ------------------------------------------------------------------------------------

function pasted<Row, H>(
  state: GridState<Row, H>,
  cells: string[][],
  held: H,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const places = placesOf(state, drawn)
  if (!places) return [state, []]
  const { top, left } = places.block
  const pasting = { cells, from: { row: top, column: left }, rows: drawn.rows, held }
  const plan = planOf(pasting, [], drawn)
  if (!isPlain(plan)) return [{ ...state, pasting }, []]
  return [state, [{ do: 'save', label: 'pasted', changed: becoming(plan.rows, drawn), held }]]
}

/** What would come of it, in the rows that it was pasted into, with these things made. */
export function planOf<Row, H>(
  { cells, from, rows }: Pasting<Row, H>,
  made: Offer[],
  { columns, columnsWith, newRow }: Drawn<Row>,
  chosen: Chosen = {},
): PastePlan<Row> {
  const known = made.length && columnsWith ? columnsWith(made) : columns
  return planned(rows, known, from, cells, newRow, chosen)
}

function pastedTaken<Row, H>(
  state: GridState<Row, H>,
  made: Offer[],
  chosen: Chosen,
  drawn: Drawn<Row>,
): Step<Row, H> {
  const { pasting } = state
  if (!pasting) return [state, []]
  const { rows } = planOf(pasting, made, drawn, chosen)
  const save = {
    do: 'save',
    label: 'pasted',
    changed: becoming(rows, drawn),
    held: pasting.held,
    made,
  } as const
  return [{ ...state, pasting: null }, [save, { do: 'focus' }]]
}

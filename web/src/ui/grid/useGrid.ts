// What a grid knows and does; how it looks is `Grid`.
import {
  useLayoutEffect,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type ReactNode,
} from 'react'
import { toast } from 'sonner'
import type { Failure } from '@/game/store'
import type { MenuEntry } from '../Menu'
import { useSteady } from '../useSteady'
import type { Closing } from './CellEditor'
import { copied, type Column, type Offer, type Place } from './columns'
import type { Editing, RowActs } from './GridRow'
import { actOf, isOwn, isPressed } from './keys'
import { filledDown, isPlain, pastedCells, planned } from './pasting'
import { usePlaces, type Cell } from './places'
import { inserted, shifted, without } from './rows'
import { useWindow } from './useWindow'

export interface GridProps<Row> {
  label: string
  rows: Row[]
  columns: Column<Row>[]
  idOf: (row: Row) => string
  nameOf: (row: Row) => string
  /** The rows as they should be now; saved as one step with this label. */
  onRows: (label: string, rows: Row[]) => Promise<Failure | null>
  onDraft?: (rows: Row[] | null) => void
  newRow?: (rows: Row[]) => Row
  copyOf?: (row: Row, rows: Row[]) => Row
  onRow?: (row: Row | null) => void
  /** Rows may refuse to go (others need them): takes over what Delete does. */
  onDelete?: (rows: Row[]) => void
  /** A row may have a sheet of its own. */
  onOpen?: (row: Row) => void
  /** What else can be done with a row. */
  actions?: (row: Row) => MenuEntry[]
  /** Rows may be carried elsewhere by the mouse. */
  carried?: boolean
  dimmed?: (row: Row) => boolean
  lit?: (row: Row) => boolean
  noun: string
  addText?: ReactNode
  /** What is named in pasted cells and not there can be made: the columns that know it then, and how all of
   * it is saved. */
  making?: (made: Offer[]) => Making<Row>
}

export interface Making<Row> {
  columns: Column<Row>[]
  onRows: (label: string, rows: Row[]) => Promise<Failure | null>
}

/** A block that was pasted, and where it begins. */
interface Pasting {
  cells: string[][]
  from: Place
}

export type Over = { at: number; to: number } | null

export function useGrid<Row>(props: GridProps<Row>) {
  const { rows, columns, idOf } = props
  const places = usePlaces(rows, columns, idOf)
  const { active, at, block, setPlace } = places
  const [editing, setEditing] = useState<Editing | null>(null)
  const [over, setOver] = useState<Over>(null)
  const [pasting, setPasting] = useState<Pasting | null>(null)
  const root = useRef<HTMLDivElement>(null)
  const body = useRef<HTMLDivElement>(null)
  const window = useWindow(body, rows.length, at?.row ?? -1)
  // What was open was closed by a key, or something was made: the keyboard goes on from the grid.
  const wantsFocus = useRef(false)

  const cellOf = (cell: Cell) =>
    root.current?.querySelector<HTMLElement>(
      `[data-row="${cell.row}"] > [data-column="${cell.column}"]`,
    )

  const shownAt = useRef('')
  useLayoutEffect(() => {
    if (!active || editing) return
    const now = `${active.row} ${active.column}`
    const moved = shownAt.current !== now
    if (!moved && !wantsFocus.current) return
    const cell = cellOf(active)
    if (!cell) return void (at && window.bringInView(at.row))
    if (wantsFocus.current || root.current?.contains(document.activeElement)) cell.focus()
    wantsFocus.current = false
    shownAt.current = now
  })

  const save = async (
    label: string,
    next: Row[] | string,
    onRows = props.onRows,
  ): Promise<void> => {
    if (typeof next === 'string') return void toast.error(next)
    const failure = await onRows(label, next)
    if (failure) toast.error(failure.message)
  }

  const goTo = ({ row, column }: Place, extend = false) => {
    const [found, key] = [
      rows[Math.max(0, Math.min(rows.length - 1, row))],
      columns[Math.max(0, Math.min(columns.length - 1, column))]?.key,
    ]
    if (found === undefined || key === undefined) return
    go({ row: idOf(found), column: key }, extend)
  }

  const go = (cell: Cell, extend: boolean) => {
    setPlace(cell, extend ? (places.anchor ?? active ?? cell) : cell)
    const found = rows[places.rowOf(cell.row)]
    if (found !== undefined) props.onRow?.(found)
  }

  /** Open the active cell; one that is not typed into has something to press. */
  const begin = (typed: string | null) => {
    const column = at && columns[at.column]
    const row = at && rows[at.row]
    if (!column || !active || row === null || row === undefined) return
    if (column.enter || column.answer)
      setEditing({ cell: active, text: typed ?? column.text(row), isFresh: typed !== null })
    else if (typed === null) cellOf(active)?.querySelector<HTMLElement>('button')?.click()
  }

  const move = (top: number, bottom: number, by: number) => {
    const next = shifted(rows, top, bottom, by)
    if (next) void save(`moved ${props.noun}`, next)
  }

  const duplicate = (from: number) => {
    const row = rows[from]
    if (row === undefined || !props.copyOf) return
    const next = inserted(rows, props.copyOf(row, rows), from)
    void save(`duplicated ${props.nameOf(row)}`, next)
  }

  const remove = (top: number, bottom: number) => {
    const gone = rows.slice(top, bottom + 1)
    wantsFocus.current = root.current?.contains(document.activeElement) ?? false
    if (props.onDelete) return props.onDelete(gone)
    const [first] = gone
    const isOne = gone.length === 1 && first !== undefined
    const what = isOne ? props.nameOf(first) : `${gone.length} ${props.noun}s`
    void save(`removed ${what}`, without(rows, top, bottom))
  }

  const add = () => {
    const [first] = columns
    if (!props.newRow || !first) return
    const made = props.newRow(rows)
    void save(`added ${props.noun}`, [...rows, made])
    wantsFocus.current = true
    setPlace({ row: idOf(made), column: first.key })
  }

  const entries = (row: Row): MenuEntry[] => {
    const here = places.rowOf(idOf(row))
    return [
      ...(props.onOpen ? [{ label: 'Open', run: () => props.onOpen?.(row) }] : []),
      { label: 'Duplicate', keys: 'Ctrl D', run: () => duplicate(here), disabled: !props.copyOf },
      ...(props.actions?.(row) ?? []),
      { label: 'Delete', keys: 'Del', run: () => remove(here, here), bad: true },
    ]
  }

  const done = (key: Closing, cell: Cell) => {
    wantsFocus.current = key !== 'blur'
    setEditing(null)
    props.onDraft?.(null)
    const column = columns.findIndex((one) => one.key === cell.column)
    const row = places.rowOf(cell.row)
    if (key === 'Enter') goTo({ row: row + 1, column })
    if (key === 'Tab') goTo({ row, column: column + 1 })
  }

  /** What was typed could not be saved: it is put back where it was typed, with the reason. */
  const refused = (cell: Cell, text: string, problem: string) => {
    if (editing || places.rowOf(cell.row) < 0) return void toast.error(problem)
    setPlace(cell)
    setEditing({ cell, text, isFresh: false, problem })
  }

  const back = () => {
    setTimeout(() => {
      if (active && document.activeElement === document.body) cellOf(active)?.focus()
    })
  }

  const withRow = (next: Row) => {
    const id = idOf(next)
    return rows.map((other) => (idOf(other) === id ? next : other))
  }

  const planOf = ({ cells, from }: Pasting, made: Offer[]) => {
    const known = made.length && props.making ? props.making(made).columns : columns
    return planned(rows, known, from, cells, props.newRow)
  }

  const paste = (begun: Pasting) => {
    const plan = planOf(begun, [])
    if (isPlain(plan)) void save('pasted', plan.rows)
    else setPasting(begun)
  }

  const acts = useSteady<RowActs<Row>>({
    go,
    begin: () => begin(null),
    draft: (next) => props.onDraft?.(next && withRow(next)),
    save: (column, next) => props.onRows(`${column.label} of ${props.nameOf(next)}`, withRow(next)),
    done,
    refused,
    over: setOver,
    carry: (from, to) => move(from, from, to - from),
    entries,
    back,
  })

  /** Whether the key was the grid's. */
  function act(event: KeyboardEvent): boolean {
    if (!at || !active || !block) return false
    const found = actOf(event, at, block, columns)
    switch (found?.do) {
      case 'go':
        goTo(found.to, found.extend)
        break
      case 'move':
        move(block.top, block.bottom, found.by)
        break
      case 'menu':
        cellOf(active)?.parentElement?.querySelector<HTMLElement>('[data-row-menu]')?.click()
        break
      case 'fill down':
        void save('filled down', filledDown(rows, columns, block))
        break
      case 'copy':
        duplicate(at.row)
        break
      case 'remove':
        remove(block.top, block.bottom)
        break
      case 'open':
        begin(null)
        break
      case 'type':
        begin(found.text)
        break
    }
    return found !== null
  }

  return {
    root,
    body,
    places,
    window,
    editing,
    over,
    acts,
    add,
    pasting,
    planOf: (made: Offer[]) => planOf(pasting ?? NOTHING_PASTED, made),
    takePasted: (plan: { rows: Row[] }, made: Offer[]) => {
      setPasting(null)
      wantsFocus.current = true
      const onRows = made.length ? props.making?.(made).onRows : undefined
      void save('pasted', plan.rows, onRows)
    },
    leavePasted: () => {
      setPasting(null)
      wantsFocus.current = true
    },
    onKeyDown: (event: KeyboardEvent) => {
      if (editing || !isOwn(event)) return
      if (isPressed(event) || !act(event)) return
      event.preventDefault()
      event.stopPropagation()
    },
    onCopy: (event: ClipboardEvent) => {
      if (editing || !block || !isOwn(event)) return
      event.clipboardData.setData('text/plain', copied(rows, columns, block))
      event.preventDefault()
    },
    onPaste: (event: ClipboardEvent) => {
      if (editing || !at || !isOwn(event)) return
      event.preventDefault()
      const cells = pastedCells(event.clipboardData.getData('text/plain'))
      const from = block ? { row: block.top, column: block.left } : at
      paste({ cells, from })
    },
  }
}

const NOTHING_PASTED: Pasting = { cells: [], from: { row: 0, column: 0 } }

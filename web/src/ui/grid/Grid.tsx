// A dense grid with a spreadsheet's manners. It knows nothing of loot: columns tell it all.
import {
  useLayoutEffect,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type ReactNode,
  type SyntheticEvent,
} from 'react'
import { toast } from 'sonner'
import type { Failure } from '@/game/store'
import type { MenuEntry } from '../Menu'
import type { Closing } from './CellEditor'
import { copied, inBlock, type Column, type Offer, type Place } from './columns'
import { startsNumber, takesLetters } from './columns'
import { PastePreview } from './PastePreview'
import { filledDown, isPlain, pastedCells, planned } from './pasting'
import { GridRow, type Editing, type RowActs } from './GridRow'
import { usePlaces, type Cell } from './places'
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

export function Grid<Row>(props: GridProps<Row>) {
  const grid = useGrid(props)
  const { rows, columns, idOf } = props
  const { places, editing, over, acts, root } = grid
  const template = columns.map((column) => column.width).join(' ')
  const { drawn, height } = grid.window
  return (
    <div className="text-small">
      <div
        ref={root}
        role="grid"
        aria-label={props.label}
        aria-rowcount={rows.length + 1}
        aria-colcount={columns.length + 1}
        aria-multiselectable
        onKeyDown={grid.onKeyDown}
        onCopy={grid.onCopy}
        onPaste={grid.onPaste}
      >
        <Head columns={columns} template={template} />
        <div ref={grid.body} role="rowgroup" className="relative" style={{ height }}>
          {drawn.map(({ at, top }) => {
            const row = rows[at] as Row
            const id = idOf(row)
            const block = places.block
            return (
              <GridRow
                key={id}
                grid={props.label}
                row={row}
                id={id}
                name={props.nameOf(row)}
                at={at}
                count={rows.length}
                top={top}
                template={template}
                columns={columns}
                acts={acts}
                active={places.active?.row === id ? places.active.column : null}
                isEntry={!places.at && at === 0}
                editing={editing?.cell.row === id ? editing : null}
                block={block && inBlock(block, at, block.left) ? block : null}
                carried={props.carried ?? false}
                held={heldOver(over, at)}
                dimmed={props.dimmed?.(row) ?? false}
                lit={props.lit?.(row) ?? false}
              />
            )
          })}
        </div>
      </div>
      {grid.pasting && (
        <PastePreview
          noun={props.noun}
          planOf={grid.planOf}
          canMake={props.making !== undefined}
          onTake={grid.takePasted}
          onLeave={grid.leavePasted}
        />
      )}
      {props.newRow && (
        <button
          type="button"
          className="px-1.5 py-1.5 text-small text-muted hover:text-ink"
          onClick={grid.add}
        >
          {props.addText ?? `+ add ${props.noun}`}
        </button>
      )}
    </div>
  )
}

function Head<Row>({ columns, template }: { columns: Column<Row>[]; template: string }) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="grid items-end border-b border-hair pb-1 leading-tight text-muted"
      style={{ gridTemplateColumns: template }}
    >
      {columns.map((column, at) => (
        <span
          key={column.key}
          role="columnheader"
          aria-colindex={at + 1}
          aria-label={column.label}
          className={`px-[5px] ${column.align === 'right' ? 'text-right' : ''}`}
        >
          {column.head}
        </span>
      ))}
    </div>
  )
}

type Over = { at: number; to: number } | null

function heldOver(over: Over, at: number): 'above' | 'below' | 'away' | null {
  if (!over) return null
  if (over.at === at) return 'away'
  return over.to === at ? (over.to > over.at ? 'below' : 'above') : null
}

/** What a grid knows and does; how it looks is above. */
function useGrid<Row>(props: GridProps<Row>) {
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

  const move = (by: number) => {
    if (!block) return
    const target = block.top + by
    if (target < 0 || block.bottom + by >= rows.length) return
    const next = [...rows]
    next.splice(target, 0, ...next.splice(block.top, block.bottom - block.top + 1))
    void save(`moved ${props.noun}`, next)
  }

  const carry = (from: number, to: number) => {
    const next = [...rows]
    next.splice(to, 0, ...next.splice(from, 1))
    void save(`moved ${props.noun}`, next)
  }

  const duplicate = (from: number) => {
    const row = rows[from]
    if (row === undefined || !props.copyOf) return
    const next = [...rows]
    next.splice(from + 1, 0, props.copyOf(row, rows))
    void save(`duplicated ${props.nameOf(row)}`, next)
  }

  const remove = (top: number, bottom: number) => {
    const gone = rows.slice(top, bottom + 1)
    wantsFocus.current = root.current?.contains(document.activeElement) ?? false
    if (props.onDelete) return props.onDelete(gone)
    const next = rows.filter((_, row) => row < top || row > bottom)
    const [first] = gone
    const what =
      gone.length === 1 && first !== undefined
        ? props.nameOf(first)
        : `${gone.length} ${props.noun}s`
    void save(`removed ${what}`, next)
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
    carry,
    entries,
    back,
  })

  function keyAction(event: KeyboardEvent): boolean {
    if (!at || !active || !block) return false
    const ctrl = event.ctrlKey || event.metaKey
    const step = STEPS[event.key]
    if (step && event.altKey) {
      if (step.row) move(step.row)
      return true
    }
    if (step) {
      const far = ctrl ? 1_000_000 : 1
      goTo({ row: at.row + step.row * far, column: at.column + step.column * far }, event.shiftKey)
      return true
    }
    if (event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey)) {
      cellOf(active)?.parentElement?.querySelector<HTMLElement>('[data-row-menu]')?.click()
      return true
    }
    if (event.key === 'Tab') {
      const next = at.column + (event.shiftKey ? -1 : 1)
      if (next < 0 || next >= columns.length) return false
      goTo({ row: at.row, column: next })
      return true
    }
    if (ctrl && event.key.toLowerCase() === 'd') {
      if (block.bottom > block.top) void save('filled down', filledDown(rows, columns, block))
      else duplicate(at.row)
      return true
    }
    if (event.key === 'Delete') {
      remove(block.top, block.bottom)
      return true
    }
    if (event.key === 'Enter' || event.key === 'F2') {
      begin(null)
      return true
    }
    const types = event.key.length === 1 && !ctrl && !event.altKey
    const column = columns[at.column]
    if (!types || !column || !(takesLetters(column) || startsNumber(column, event.key)))
      return false
    begin(event.key)
    return true
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
      if (isPressed(event) || !keyAction(event)) return
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

/** The same object for as long as its holder is there, doing what the latest one does. */
function useSteady<T extends object>(latest: T): T {
  const held = useRef(latest)
  useLayoutEffect(() => {
    held.current = latest
  })
  const [steady] = useState(() => {
    const made = {} as Record<string, unknown>
    for (const key of Object.keys(latest))
      made[key] = (...given: unknown[]) =>
        (held.current as Record<string, (...args: unknown[]) => unknown>)[key]?.(...given)
    return made as T
  })
  return steady
}

/** Menus and popovers stand elsewhere on the page, though React hands their events on; and a field within
 * a cell has keys and a clipboard of its own. */
function isOwn(event: SyntheticEvent): boolean {
  const target = event.target as HTMLElement
  return event.currentTarget.contains(target) && !target.closest('input, textarea, select')
}

/** Enter and space on a button within a cell press it. */
function isPressed(event: KeyboardEvent): boolean {
  const isPress = event.key === 'Enter' || event.key === ' '
  return isPress && (event.target as HTMLElement).closest('button, a') !== null
}

const STEPS: Record<string, Place> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
}

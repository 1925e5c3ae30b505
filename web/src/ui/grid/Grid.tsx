// A dense grid with a spreadsheet's manners. It knows nothing of loot: columns tell it all.
import { useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react'
import { toast } from 'sonner'
import type { Failure } from '@/game/store'
import { Menu, type MenuEntry } from '../Menu'
import { CellEditor, type Closing } from './CellEditor'
import { ROW, RowGrip } from './RowGrip'
import {
  blockOf,
  copied,
  filledDown,
  inBlock,
  pasted,
  pastedCells,
  type Column,
  type Place,
} from './columns'

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
}

export function Grid<Row>(props: GridProps<Row>) {
  const { rows, columns } = props
  const [active, setActive] = useState<Place | null>(null)
  const [anchor, setAnchor] = useState<Place | null>(null)
  const [editing, setEditing] = useState<Editing | null>(null)
  // What was open was closed by a key or a save: the keyboard goes on from the grid.
  const wantsFocus = useRef(false)
  const open = useRef<Editing | null>(null)
  useLayoutEffect(() => {
    open.current = editing
  }, [editing])
  const [over, setOver] = useState<{ at: number; to: number } | null>(null)
  const root = useRef<HTMLDivElement>(null)
  const block = active ? blockOf(anchor ?? active, active) : null

  const save = async (label: string, next: Row[] | string): Promise<boolean> => {
    if (typeof next === 'string') {
      toast.error(next)
      return false
    }
    const failure = await props.onRows(label, next)
    if (failure) toast.error(failure.message)
    return !failure
  }

  const go = (place: Place, extend = false) => {
    const row = Math.max(0, Math.min(rows.length - 1, place.row))
    const column = Math.max(0, Math.min(columns.length - 1, place.column))
    setActive({ row, column })
    setAnchor(extend ? (anchor ?? active ?? { row, column }) : { row, column })
    const found = rows[row]
    if (found !== undefined) props.onRow?.(found)
  }

  useLayoutEffect(() => {
    if (!active || editing !== null) return
    const selector = `[data-place="${active.row},${active.column}"]`
    const cell = root.current?.querySelector<HTMLElement>(selector)
    if (wantsFocus.current || root.current?.contains(document.activeElement)) cell?.focus()
    wantsFocus.current = false
  }, [active, editing])

  const begin = (text: string | null) => {
    const column = active && columns[active.column]
    const row = active && rows[active.row]
    if (!column || row === null || row === undefined || !(column.enter || column.answer)) return
    setEditing({ place: active, text: text ?? column.text(row) })
  }

  const move = (by: number) => {
    if (!block) return
    const target = block.top + by
    if (target < 0 || block.bottom + by >= rows.length) return
    const next = [...rows]
    next.splice(target, 0, ...next.splice(block.top, block.bottom - block.top + 1))
    void save(`moved ${props.noun}`, next)
    setActive((now) => now && { ...now, row: now.row + by })
    setAnchor((now) => now && { ...now, row: now.row + by })
  }

  const carry = (at: number, to: number) => {
    const next = [...rows]
    next.splice(to, 0, ...next.splice(at, 1))
    void save(`moved ${props.noun}`, next)
    setActive((now) => now && { ...now, row: to })
    setAnchor(null)
  }

  const duplicate = (at: number) => {
    const row = rows[at]
    if (row === undefined || !props.copyOf) return
    const next = [...rows]
    next.splice(at + 1, 0, props.copyOf(row, rows))
    void save(`duplicated ${props.nameOf(row)}`, next)
  }

  const remove = (top: number, bottom: number) => {
    const gone = rows.slice(top, bottom + 1)
    if (props.onDelete) return props.onDelete(gone)
    const next = rows.filter((_, at) => at < top || at > bottom)
    const what =
      gone.length === 1 && gone[0] !== undefined
        ? props.nameOf(gone[0])
        : `${gone.length} ${props.noun}s`
    void save(`removed ${what}`, next)
  }

  const add = async () => {
    if (!props.newRow) return
    if (await save(`added ${props.noun}`, [...rows, props.newRow(rows)])) {
      setActive({ row: rows.length, column: 0 })
      setAnchor(null)
      requestAnimationFrame(() =>
        root.current?.querySelector<HTMLElement>(`[data-place="${rows.length},0"]`)?.focus(),
      )
    }
  }

  const onKeyDown = (event: KeyboardEvent) => {
    if (editing !== null || !active || !block) return
    const handled = keyAction(event)
    if (handled) {
      event.preventDefault()
      event.stopPropagation()
    }
  }

  function keyAction(event: KeyboardEvent): boolean {
    if (!active || !block) return false
    const ctrl = event.ctrlKey || event.metaKey
    const step = STEPS[event.key]
    if (step && event.altKey) {
      if (step.row) move(step.row)
      return true
    }
    if (step) {
      const far = ctrl ? 10_000 : 1
      go(
        { row: active.row + step.row * far, column: active.column + step.column * far },
        event.shiftKey,
      )
      return true
    }
    if (event.key === 'Tab') {
      const next = active.column + (event.shiftKey ? -1 : 1)
      if (next < 0 || next >= columns.length) return false
      go({ row: active.row, column: next })
      return true
    }
    if (ctrl && event.key.toLowerCase() === 'd') {
      if (block.bottom > block.top) void save('filled down', filledDown(rows, columns, block))
      else duplicate(active.row)
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
    if (event.key.length === 1 && !ctrl && !event.altKey) {
      begin(event.key)
      return true
    }
    return false
  }

  const finish = (place: Place | null) => {
    wantsFocus.current = place !== null
    setEditing(null)
    props.onDraft?.(null)
    if (place) go(place)
  }

  /** What was typed could not be saved: it is put back where it was typed, with the reason. */
  const refused = (place: Place, text: string, problem: string) => {
    if (open.current) return void toast.error(problem)
    setActive(place)
    setAnchor(place)
    setEditing({ place, text, problem })
  }

  const template = columns.map((column) => column.width).join(' ')
  return (
    <div
      ref={root}
      role="grid"
      aria-label={props.label}
      aria-rowcount={rows.length}
      className="text-[12px]"
      onKeyDown={onKeyDown}
      onCopy={(event) => {
        if (editing !== null || !block) return
        event.clipboardData.setData('text/plain', copied(rows, columns, block))
        event.preventDefault()
      }}
      onPaste={(event) => {
        if (editing !== null || !active) return
        event.preventDefault()
        const cells = pastedCells(event.clipboardData.getData('text/plain'))
        const from = block ? { row: block.top, column: block.left } : active
        void save('pasted', pasted(rows, columns, from, cells, props.newRow))
      }}
    >
      <div
        role="row"
        className="grid items-end border-b border-hair pb-1 leading-tight text-muted"
        style={{ gridTemplateColumns: template }}
      >
        {columns.map((column) => (
          <span
            key={column.key}
            role="columnheader"
            aria-label={column.label}
            className={`px-[5px] ${column.align === 'right' ? 'text-right' : ''}`}
          >
            {column.head}
          </span>
        ))}
      </div>
      {rows.map((row, at) => (
        <div
          key={props.idOf(row)}
          role="row"
          data-row={props.idOf(row)}
          className={`group relative grid items-stretch ${over?.at === at ? 'opacity-50' : ''} border-b border-hair/70 ${props.lit?.(row) ? 'bg-gold-wash' : active?.row === at ? 'bg-raised' : ''} ${props.dimmed?.(row) ? 'text-muted' : ''}`}
          style={{ gridTemplateColumns: template, height: ROW }}
        >
          {over?.to === at && over.at !== at && (
            <span
              className={`pointer-events-none absolute inset-x-0 z-20 h-0.5 bg-gold ${over.to > over.at ? '-bottom-px' : '-top-px'}`}
            />
          )}
          {columns.map((column, place) => {
            const here = active?.row === at && active.column === place
            const isOpen = editing?.place.row === at && editing.place.column === place
            const inside = block ? inBlock(block, at, place) && !here : false
            return (
              <div
                key={column.key}
                role="gridcell"
                data-place={`${at},${place}`}
                data-column={column.key}
                tabIndex={here || (!active && at === 0 && place === 0) ? 0 : -1}
                aria-label={`${column.label}: ${column.text(row)}`}
                aria-readonly={!(column.enter || column.answer)}
                title={column.odd?.(row) ?? column.title?.(row)}
                className={`relative flex min-w-0 items-center px-[5px] outline-none ${column.align === 'right' ? 'justify-end' : ''} ${column.enter ? 'border-x border-hair/50 bg-raised' : ''} ${inside ? 'bg-gold-wash' : ''} ${here ? 'z-10 shadow-[inset_0_0_0_1.5px_var(--color-gold)]' : ''}`}
                onMouseDown={(event) => {
                  if (isOpen) return
                  go({ row: at, column: place }, event.shiftKey)
                }}
                onFocus={() => {
                  if (!here && !active) go({ row: at, column: place })
                }}
                onDoubleClick={() => !isOpen && begin(null)}
              >
                {column.odd?.(row) && (
                  <span className="pointer-events-none absolute right-0 top-0 border-4 border-b-transparent border-l-transparent border-r-waiting border-t-waiting" />
                )}
                {isOpen ? (
                  <CellEditor
                    column={column}
                    row={row}
                    initial={editing.text}
                    refused={editing.problem ?? ''}
                    onDraft={(next) =>
                      props.onDraft?.(next && rows.map((other, n) => (n === at ? next : other)))
                    }
                    onRow={(next) =>
                      props.onRows(
                        `${column.label} of ${props.nameOf(next)}`,
                        rows.map((other, n) => (n === at ? next : other)),
                      )
                    }
                    onDone={(key) => finish(after(key, { row: at, column: place }))}
                    onRefused={(text, problem) =>
                      refused({ row: at, column: place }, text, problem)
                    }
                  />
                ) : (
                  (column.show?.(row) ?? <span className="truncate">{column.text(row)}</span>)
                )}
              </div>
            )
          })}
          <span className="absolute inset-y-0 right-0 z-20 flex items-center bg-raised opacity-0 focus-within:opacity-100 group-hover:opacity-100">
            {props.carried && rows.length > 1 && (
              <RowGrip
                name={props.nameOf(row)}
                at={at}
                count={rows.length}
                onOver={(to) => setOver(to === null ? null : { at, to })}
                onMoved={(to) => carry(at, to)}
              />
            )}
            <Menu
              label={`What to do with ${props.nameOf(row)}`}
              align="end"
              trigger={
                <button type="button" tabIndex={-1} className="px-1 leading-none text-muted">
                  ⋯
                </button>
              }
              entries={[
                ...(props.onOpen ? [{ label: 'Open', run: () => props.onOpen?.(row) }] : []),
                {
                  label: 'Duplicate',
                  keys: 'Ctrl D',
                  run: () => duplicate(at),
                  disabled: !props.copyOf,
                },
                ...(props.actions?.(row) ?? []),
                { label: 'Delete', keys: 'Del', run: () => remove(at, at), bad: true },
              ]}
            />
          </span>
        </div>
      ))}
      {props.newRow && (
        <button
          type="button"
          className="px-1.5 py-1.5 text-[12px] text-muted hover:text-ink"
          onClick={() => void add()}
        >
          {props.addText ?? `+ add ${props.noun}`}
        </button>
      )}
    </div>
  )
}

interface Editing {
  place: Place
  text: string
  problem?: string
}

/** Where the keyboard goes on after a cell was closed by a key; nowhere if it was left. */
function after(key: Closing, { row, column }: Place): Place | null {
  if (key === 'Enter') return { row: row + 1, column }
  if (key === 'Tab') return { row, column: column + 1 }
  return key === 'Escape' ? { row, column } : null
}

const STEPS: Record<string, Place> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
}

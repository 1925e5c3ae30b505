// One row of a grid. Drawn again only when something of its own changes.
import { memo } from 'react'
import { cellAddress, inkOf, nameOf, useWhoIsIn, type Person } from '@/game/people'
import { Menu, type MenuEntry } from '../Menu'
import { CellEditor } from './CellEditor'
import { ROW, RowGrip } from './RowGrip'
import { takesLetters, type Block, type Column } from './columns'
import type { Cell, Closing, Editor } from './state'

/** What rows ask of their grid; one object for as long as the grid is there. */
export interface RowActs<Row> {
  go: (cell: Cell, extend: boolean) => void
  begin: () => void
  type: (text: string) => void
  take: (how: Closing, text?: string) => void
  giveUp: () => void
  over: (over: { at: number; to: number } | null) => void
  carry: (at: number, to: number) => void
  entries: (row: Row) => MenuEntry[]
  /** A menu was closed, and is gone: the keyboard goes on from the grid. */
  back: () => void
}

interface Props<Row> {
  /** The label of the grid that it is in. */
  grid: string
  row: Row
  id: string
  name: string
  at: number
  count: number
  top: number | null
  template: string
  columns: Column<Row>[]
  acts: RowActs<Row>
  /** The active cell's column, where it is in this row. */
  active: string | null
  /** Whether the keyboard may come in here by Tab. */
  isEntry: boolean
  editor: Editor | null
  block: Block | null
  carried: boolean
  /** A row is held over this one: it would come above it, or below. */
  held: 'above' | 'below' | 'away' | null
  dimmed: boolean
  lit: boolean
}

function Row<R>(props: Props<R>) {
  const { id, at, columns, active, top, template, held, lit, dimmed } = props
  const place =
    top === null
      ? { height: ROW }
      : { height: ROW, position: 'absolute' as const, top, left: 0, right: 0 }
  return (
    <div
      role="row"
      aria-rowindex={at + 2}
      aria-selected={props.block !== null}
      data-row={id}
      className={`group grid items-stretch ${top === null ? 'relative' : ''} ${held === 'away' ? 'opacity-50' : ''} border-b border-hair/70 ${lit ? 'bg-gold-wash' : active ? 'bg-raised' : ''} ${dimmed ? 'text-muted' : ''}`}
      style={{ gridTemplateColumns: template, ...place }}
    >
      {(held === 'above' || held === 'below') && (
        <span
          className={`pointer-events-none absolute inset-x-0 z-20 h-0.5 bg-gold ${held === 'below' ? '-bottom-px' : '-top-px'}`}
        />
      )}
      {columns.map((column, number) => (
        <GridCell key={column.key} {...props} column={column} number={number} />
      ))}
      <RowEnd {...props} />
    </div>
  )
}

function GridCell<R>(props: Props<R> & { column: Column<R>; number: number }) {
  const { row, id, column, number, active, editor, block, acts, isEntry } = props
  const cell = { row: id, column: column.key }
  const here = active === column.key
  const isOpen = editor?.cell.column === column.key
  const other = useWhoIsIn(cellAddress(props.grid, id, column.key))
  const inside = block !== null && !here && number >= block.left && number <= block.right
  const odd = column.odd?.(row)
  return (
    <div
      role="gridcell"
      data-column={column.key}
      data-letters={takesLetters(column) || undefined}
      aria-colindex={number + 1}
      aria-selected={here || inside}
      tabIndex={here || (isEntry && number === 0) ? 0 : -1}
      aria-label={`${column.label}: ${column.text(row)}`}
      aria-readonly={!(column.enter || column.answer)}
      title={other ? `${nameOf(other)} is here` : (odd ?? column.title?.(row))}
      className={`relative flex min-w-0 items-center px-[5px] outline-none ${column.align === 'right' ? 'justify-end' : ''} ${column.enter ? 'border-x border-hair/50 bg-raised' : ''} ${inside ? 'bg-gold-wash' : ''} ${here ? 'z-10 shadow-[inset_0_0_0_1.5px_var(--color-gold)]' : ''}`}
      onMouseDown={(event) => !isOpen && acts.go(cell, event.shiftKey)}
      onFocus={(event) => {
        if (!here && event.target === event.currentTarget) acts.go(cell, false)
      }}
      onDoubleClick={() => !isOpen && acts.begin()}
    >
      {other && <Elsewhere person={other} />}
      {odd && (
        <span className="pointer-events-none absolute right-0 top-0 border-4 border-b-transparent border-l-transparent border-r-waiting border-t-waiting" />
      )}
      {isOpen ? (
        <CellEditor column={column} editor={editor} acts={acts} />
      ) : (
        (column.show?.(row) ?? <span className="truncate">{column.text(row)}</span>)
      )}
    </div>
  )
}

/** Somebody else's keyboard is in this cell: their mark, as it stands above the game. */
function Elsewhere({ person }: { person: Person }) {
  const ink = inkOf(person.page)
  return (
    <span
      data-person={nameOf(person)}
      className="pointer-events-none absolute inset-[2px] border border-dashed"
      style={{ borderColor: ink }}
    >
      <span
        className="absolute -left-2 top-1/2 grid h-3.5 w-3.5 -translate-y-1/2 place-items-center rounded-full text-micro font-semibold leading-none text-paper"
        style={{ background: ink }}
      >
        {nameOf(person).slice(0, 1).toUpperCase()}
      </span>
    </span>
  )
}

/** What can be done with the row: a handle, and a menu. */
function RowEnd<R>({ row, name, at, count, carried, acts, columns }: Props<R>) {
  return (
    <span
      role="gridcell"
      aria-colindex={columns.length + 1}
      aria-label={`what can be done with ${name}`}
      className="absolute inset-y-0 right-0 z-20 flex items-center bg-raised opacity-0 focus-within:opacity-100 group-hover:opacity-100"
    >
      {carried && count > 1 && (
        <RowGrip
          name={name}
          at={at}
          count={count}
          onOver={(to) => acts.over(to === null ? null : { at, to })}
          onMoved={(to) => acts.carry(at, to)}
        />
      )}
      <Menu
        label={`What to do with ${name}`}
        align="end"
        trigger={
          <button
            type="button"
            data-row-menu
            tabIndex={-1}
            className="px-1 leading-none text-muted"
          >
            ⋯
          </button>
        }
        entries={() => acts.entries(row)}
        onLeft={acts.back}
      />
    </span>
  )
}

export const GridRow = memo(Row) as typeof Row

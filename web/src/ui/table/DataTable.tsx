// A table to read: sorted by its heads, gone through by arrow keys, copied as a block, saved as a file.
import { Fragment, useMemo, useState, type KeyboardEvent, type ReactNode } from 'react'
import type { Term } from '@/game/glossary'
import { Explained } from '../Explained'
import { copyText, saveNumbers } from '../taking'
import { inOrder, tabbed, type Told } from './numbers'
import { useBlock } from './useBlock'

export interface DataColumn<Row> {
  id: string
  /** As it is copied and spoken. */
  head: string
  /** As it is shown, where that is more than the words. */
  shownHead?: ReactNode
  /** The word in the head that explains itself. */
  term?: Term
  value: (row: Row) => Told
  /** As it is shown: else the value itself. */
  cell?: (row: Row) => ReactNode
  align?: 'left' | 'right'
  /** Of the cell. */
  className?: string
  /** A picture of what stands in the cell beside it: neither sorted by nor copied. */
  aside?: boolean
}

interface DataTableProps<Row> {
  label: string
  columns: DataColumn<Row>[]
  rows: Row[]
  keyOf: (row: Row) => string
  /** Enter, or a click, on a row. */
  onOpen?: (row: Row) => void
  /** A row that is on already: `onOpen` puts it off again. */
  isChosen?: (row: Row) => boolean
  /** What is shown under a row that is unfolded. */
  detail?: (row: Row) => ReactNode
  /** Rows that always stand last: sums, what is nothing. */
  foot?: Row[]
  className?: string
}

const FIRST = 200 // rows drawn before more are asked for

export function DataTable<Row>(props: DataTableProps<Row>) {
  const { label, columns, rows, keyOf, foot = [] } = props
  const [order, setOrder] = useState<Order | null>(null)
  const [all, setAll] = useState(false)
  const [unfolded, setUnfolded] = useState<string | null>(null)
  const sorted = useMemo(() => ordered(rows, columns, order), [rows, columns, order])
  const drawn = all ? sorted : sorted.slice(0, FIRST)
  const everything = [...drawn, ...foot]
  const block = useBlock(everything.length, columns.length)

  const open = (at: number) => {
    const row = everything[at]
    if (row === undefined) return
    if (props.detail) setUnfolded((now) => (now === keyOf(row) ? null : keyOf(row)))
    props.onOpen?.(row)
  }
  const copy = () => {
    const chosen = block.chosen()
    const shown = columns.slice(chosen.left, chosen.right + 1).filter((column) => !column.aside)
    const cells = everything
      .slice(chosen.top, chosen.bottom + 1)
      .map((row) => shown.map((column) => column.value(row)))
    const whole = chosen.bottom - chosen.top + 1 === everything.length && everything.length > 1
    void copyText(tabbed(whole ? [shown.map((column) => column.head), ...cells] : cells))
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const key = event.key.toLowerCase()
    if ((event.ctrlKey || event.metaKey) && key === 'c') copy()
    else if ((event.ctrlKey || event.metaKey) && key === 'a') block.chooseAll()
    else if ((event.ctrlKey || event.metaKey) && key === 's') save()
    else if (event.key === 'Enter' && !block.inHead) open(block.at.row)
    else if (!block.move(event)) return
    event.preventDefault()
    event.stopPropagation()
  }
  const save = () => {
    const kept = columns.filter((column) => !column.aside)
    saveNumbers(label, {
      heads: kept.map((column) => column.head),
      rows: [...sorted, ...foot].map((row) => kept.map((column) => column.value(row))),
    })
  }
  return (
    <div className="relative" onKeyDown={onKeyDown}>
      <table
        role="grid"
        aria-readonly
        aria-multiselectable
        aria-label={label}
        aria-rowcount={rows.length + foot.length + 1}
        aria-colcount={columns.length}
        className={`w-full border-collapse text-small ${props.className ?? ''}`}
        ref={block.ref}
      >
        <thead className="text-muted">
          <tr aria-rowindex={1} className="border-b border-hair align-bottom leading-tight">
            {columns.map((column, at) => (
              <th
                key={column.id}
                scope="col"
                aria-sort={
                  order?.id !== column.id ? 'none' : order.desc ? 'descending' : 'ascending'
                }
                className={`px-1 pb-1 font-normal ${column.align === 'left' ? 'text-left' : 'text-right'}`}
              >
                <Head
                  column={column}
                  order={order?.id === column.id ? order : null}
                  tabIndex={block.tabIndex(-1, at)}
                  place={`-1,${at}`}
                  onFocus={() => block.come(-1, at)}
                  onSort={() => setOrder(nextOrder(order, column, rows))}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {everything.map((row, at) => (
            <Fragment key={keyOf(row)}>
              <DataRow
                row={row}
                at={at}
                columns={columns}
                block={block}
                isFoot={at >= drawn.length}
                isOpen={props.detail ? unfolded === keyOf(row) : undefined}
                isOn={props.isChosen?.(row)}
                onOpen={props.detail || props.onOpen ? () => open(at) : undefined}
              />
              {unfolded === keyOf(row) && (
                <tr>
                  <td colSpan={columns.length} className="px-6 py-2">
                    {props.detail?.(row)}
                  </td>
                </tr>
              )}
            </Fragment>
          ))}
        </tbody>
      </table>
      {drawn.length < sorted.length && (
        <button type="button" className="plain-button mt-2" onClick={() => setAll(true)}>
          Show all {sorted.length}
        </button>
      )}
    </div>
  )
}

function Head<Row>({
  column,
  order,
  tabIndex,
  place,
  onFocus,
  onSort,
}: {
  column: DataColumn<Row>
  order: Order | null
  tabIndex: number
  place: string
  onFocus: () => void
  onSort: () => void
}) {
  const button = (
    <button
      type="button"
      tabIndex={tabIndex}
      data-place={place}
      aria-label={column.aside ? column.head : `sort by ${column.head}`}
      disabled={column.aside}
      className="leading-tight hover:text-ink disabled:opacity-100"
      onFocus={onFocus}
      onClick={onSort}
    >
      {column.shownHead ?? column.head}
      <span aria-hidden className="num">
        {order ? (order.desc ? ' ↓' : ' ↑') : ''}
      </span>
    </button>
  )
  return column.term ? <Explained term={column.term} by={button} /> : button
}

function DataRow<Row>({
  row,
  at,
  columns,
  block,
  isFoot,
  isOpen,
  isOn,
  onOpen,
}: {
  row: Row
  at: number
  columns: DataColumn<Row>[]
  block: ReturnType<typeof useBlock>
  isFoot: boolean
  isOpen: boolean | undefined
  isOn: boolean | undefined
  onOpen: (() => void) | undefined
}) {
  return (
    <tr
      aria-rowindex={at + 2}
      aria-expanded={isOpen}
      className={`border-b border-hair/70 ${onOpen ? 'cursor-pointer hover:bg-gold-wash' : ''} ${isFoot ? 'text-muted' : ''}`}
      onClick={onOpen}
    >
      {columns.map((column, place) => (
        <td
          key={column.id}
          role="gridcell"
          aria-colindex={place + 1}
          aria-selected={block.isChosen(at, place) || (isOn ?? false)}
          tabIndex={block.tabIndex(at, place)}
          data-place={`${at},${place}`}
          onFocus={() => block.come(at, place)}
          onMouseDown={(event) => event.shiftKey && block.reach(at, place)}
          className={`px-1 py-[2px] ${column.align === 'left' ? 'text-left' : 'text-right'} ${block.isChosen(at, place) ? 'bg-gold-wash' : ''} ${column.className ?? (column.align === 'left' ? '' : 'num')}`}
        >
          {column.cell?.(row) ?? column.value(row)}
        </td>
      ))}
    </tr>
  )
}

interface Order {
  id: string
  desc: boolean
}

/** A press on a head: numbers begin with the largest, names with the first; then turned round; then as it was. */
function nextOrder<Row>(
  now: Order | null,
  { id, value }: DataColumn<Row>,
  rows: Row[],
): Order | null {
  const first = rows.some((row) => typeof value(row) === 'number')
  if (now?.id !== id) return { id, desc: first }
  return now.desc === first ? { id, desc: !first } : null
}

function ordered<Row>(rows: Row[], columns: DataColumn<Row>[], order: Order | null): Row[] {
  const by = columns.find((column) => column.id === order?.id)
  if (!by || !order) return rows
  const told = rows.map((row) => ({ row, value: by.value(row) }))
  // What is not there stays last, whichever way round.
  const way = (a: Told, b: Told) => (a === null || b === null || !order.desc ? 1 : -1)
  return told
    .sort((a, b) => way(a.value, b.value) * inOrder(a.value, b.value))
    .map(({ row }) => row)
}

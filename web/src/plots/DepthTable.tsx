// Numbers over depth as a table: each row lies at its depth's place on the plumb line.
import { memo, useMemo, useRef, type ReactNode } from 'react'
import { setDepth } from '@/game/store'
import { useAcross, useLater, type Stretch } from './useAcross'

export interface Cell {
  text: string
  /** How much of the most in its column, 0 to 1. */
  heat?: number
  title?: string
  className?: string
  /** Makes a target of what stands in it. */
  onHold?: (() => void) | undefined
}

export interface TableRow {
  key: string
  label: string
  /** The middle of the row on the scale, and the depth it leads to. */
  y: number
  depth: number
  here: boolean
  /** Set in the type of names rather than of numbers. */
  named?: boolean
  dim?: boolean
  /** What stands in a column; asked only of those that are seen. */
  cell: (column: number) => Cell
}

const ROW = 15
const AT_ONCE = 12 // rows that are written anew in a frame

export function DepthTable({
  label,
  heads,
  rows,
  width,
  labelWidth = 30,
  head = 34,
}: {
  label: string
  heads: { key: string; head: ReactNode }[]
  rows: TableRow[]
  /** Of a column, in px. */
  width: number
  labelWidth?: number
  /** The height of the headings, as the frame around it was told. */
  head?: number
}) {
  const root = useRef<HTMLTableElement>(null)
  const stretches = useAcross(root, heads.length, width, labelWidth)
  const parts = useMemo(() => inParts(rows), [rows])
  // Where depths are close the first row reaches into the headings' room.
  const reach = Math.max(0, ROW / 2 - (rows[0]?.y ?? ROW))
  return (
    <table
      ref={root}
      aria-label={label}
      aria-colcount={heads.length + 1}
      className="num told relative shrink-0 table-fixed border-collapse text-tiny"
      style={{ marginTop: -head, width: labelWidth + width * heads.length }}
    >
      <thead>
        <tr style={{ height: head }} className="align-bottom">
          <th style={{ width: labelWidth }}>
            <span className="sr-only">depth</span>
          </th>
          {stretches.map(([from, end], slot) => (
            <Heads
              key={slot}
              heads={heads}
              from={from}
              end={end}
              width={width}
              before={labelWidth}
              height={head}
              reach={reach}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {parts.map((some, number) => (
          <Rows
            key={number}
            rows={some}
            stretches={stretches}
            later={stretches.length > 1 ? number : 0}
            width={width}
            before={labelWidth}
            top={head}
            whole={labelWidth + width * heads.length}
          />
        ))}
      </tbody>
    </table>
  )
}

function inParts(rows: TableRow[]): TableRow[][] {
  const many = Math.ceil(rows.length / AT_ONCE)
  return Array.from({ length: many }, (_, at) => rows.slice(at * AT_ONCE, (at + 1) * AT_ONCE))
}

/** The headings of a stretch of columns. */
const Heads = memo(function Heads({ heads, from, end, width, before, height, reach }: HeadsProps) {
  return heads.slice(from, end).map(({ head }, at) => (
    <th
      key={at}
      aria-colindex={from + at + 2}
      style={{ left: before + (from + at) * width, width, height, paddingBottom: reach }}
      className="absolute top-0 flex items-end justify-end px-0.5 text-right font-normal"
    >
      {head}
    </th>
  ))
})

interface HeadsProps {
  heads: { key: string; head: ReactNode }[]
  from: number
  end: number
  width: number
  before: number
  height: number
  reach: number
}

/** Some of the rows. Which columns are drawn is heard `later`, counted in frames: with all rows at once a change
 * would take longer than a frame has. */
const Rows = memo(function Rows({ rows, stretches, later, width, before, top, whole }: RowsProps) {
  const drawn = useLater(stretches, later)
  return rows.map((row) => (
    <tr
      key={row.key}
      className={`absolute z-10 flex items-center bg-paper ${row.dim ? 'italic text-muted' : ''} ${row.here ? 'font-semibold' : ''}`}
      style={{ top: top + row.y - ROW / 2, width: whole, height: ROW, contain: 'layout style' }}
    >
      <td
        style={{ width: before }}
        className={`pr-1.5 text-right text-muted ${row.named ? 'name' : ''}`}
      >
        <button
          type="button"
          tabIndex={-1}
          aria-label={`look at ${row.label}`}
          onClick={() => setDepth(row.depth)}
        >
          {row.label}
        </button>
      </td>
      {drawn.map(([from, end], slot) => (
        <Cells key={slot} cell={row.cell} from={from} end={end} width={width} before={before} />
      ))}
    </tr>
  ))
})

interface RowsProps {
  rows: TableRow[]
  stretches: Stretch[]
  later: number
  width: number
  before: number
  top: number
  whole: number
}

/** A row's cells in a stretch of columns. What stays is not drawn again as columns come and go, nor laid out
 * again: each cell has its own place. */
const Cells = memo(function Cells({ cell, from, end, width, before }: CellsProps) {
  return Array.from({ length: end - from }, (_, at) => (
    <Told
      key={at}
      cell={cell(from + at)}
      at={from + at}
      left={before + (from + at) * width}
      width={width}
    />
  ))
})

interface CellsProps {
  cell: (column: number) => Cell
  from: number
  end: number
  width: number
  before: number
}

function Told({ cell, at, left, width }: { cell: Cell; at: number; left: number; width: number }) {
  return (
    <td
      aria-colindex={at + 2}
      title={cell.title}
      style={{
        left,
        width,
        backgroundSize: cell.heat ? `calc(${(100 * cell.heat).toFixed(1)}% - 6px) 2px` : undefined,
      }}
      className={`absolute inset-y-0 px-1 text-right leading-[15px] ${cell.heat ? 'told-bar' : ''} ${cell.className ?? ''}`}
    >
      {cell.onHold ? (
        // A button of HTML is two boxes around its text, each laid out as columns come.
        <span
          role="button"
          tabIndex={-1}
          className="held"
          title="Hold this: make a target of it"
          onClick={cell.onHold}
          onKeyDown={({ key }) => (key === 'Enter' || key === ' ') && cell.onHold?.()}
        >
          {cell.text}
        </span>
      ) : (
        cell.text
      )}
    </td>
  )
}

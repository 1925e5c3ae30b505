// Numbers over depth as a table: each row lies at its depth's place on the plumb line.
import { memo, useRef, type ReactNode } from 'react'
import { setDepth } from '@/game/store'
import { STEP, useAcross } from './useAcross'

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
  const [first, end] = useAcross(root, heads.length, width, labelWidth)
  const drawn = heads.slice(first, end)
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
          {first > 0 && <td style={{ width: first * width }} />}
          {drawn.map(({ key, head }, at) => (
            <th
              key={key}
              aria-colindex={first + at + 2}
              style={{ width, paddingBottom: reach }}
              className="px-0.5 text-right font-normal"
            >
              {head}
            </th>
          ))}
          {end < heads.length && <td />}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr
            key={row.key}
            className={`absolute z-10 flex items-center bg-paper ${row.dim ? 'italic text-muted' : ''} ${row.here ? 'font-semibold' : ''}`}
            style={{
              top: head + row.y - ROW / 2,
              width: labelWidth + width * heads.length,
              height: ROW,
              contain: 'layout style',
            }}
          >
            <td
              style={{ width: labelWidth }}
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
            {steps(first, end).map((from) => (
              <Stretch
                key={from}
                cell={row.cell}
                from={from}
                end={Math.min(end, from + STEP)}
                width={width}
                before={labelWidth}
              />
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

/** Where the stretches of columns begin that come and go together. */
function steps(first: number, end: number): number[] {
  return Array.from({ length: Math.ceil((end - first) / STEP) }, (_, at) => first + at * STEP)
}

/** A row's cells in a few columns. What stays is not drawn again as columns come and go, nor laid out again:
 * each cell has its own place. */
const Stretch = memo(function Stretch({ cell, from, end, width, before }: StretchProps) {
  return Array.from({ length: end - from }, (_, at) => (
    <Told
      key={from + at}
      cell={cell(from + at)}
      at={from + at}
      left={before + (from + at) * width}
      width={width}
    />
  ))
})

interface StretchProps {
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
        background: cell.heat ? bar(cell.heat) : undefined,
      }}
      className={`absolute inset-y-0 px-1 text-right leading-[15px] ${cell.className ?? ''}`}
    >
      {cell.onHold ? (
        <button
          type="button"
          tabIndex={-1}
          className="num held"
          title="Hold this: make a target of it"
          onClick={cell.onHold}
        >
          {cell.text}
        </button>
      ) : (
        cell.text
      )}
    </td>
  )
}

/** A bar under the number, as long as its share of the column's largest: down the depths they make a profile.
 * Gold is for acting, so it is the verdigris of the paper's edge. */
function bar(share: number): string {
  const ink = 'color-mix(in srgb, var(--color-verdigris) 55%, var(--color-paper))'
  return `linear-gradient(${ink}, ${ink}) right 3px bottom 0 / calc(${(100 * share).toFixed(1)}% - 6px) 2px no-repeat`
}

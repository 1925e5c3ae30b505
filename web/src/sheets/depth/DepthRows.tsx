// A table over depth: a row for each depth (or band), a column for each item, or source of an item.
import type { ReactNode } from 'react'
import { useGame } from '@/game/store'
import { useDepthScale } from '@/plots/DepthFrame'
import { DepthTable, type Cell } from '@/plots/DepthTable'
import { figures } from '@/text/format'
import type { Column } from './columns'
import { heatOf, rangeOf, written, type Figure } from './figures'
import { withRoom, type Row } from './rows'

const LABEL = { depth: 30, band: 96 }

export function DepthRows({
  label,
  rows,
  columns,
  figure,
  mark,
  chosen,
  onChoose,
  more = [],
  width = 64,
  warmest = 'each',
  onHold,
}: {
  label: string
  rows: Row[]
  columns: Column[]
  figure: Figure
  /** The sign at a column's name. */
  mark: (id: string) => ReactNode
  chosen: string[]
  onChoose: (id: string) => void
  /** A figure at a depth is to be held: of a column by its id, of what stands behind them by its place. */
  onHold?: (what: string | number, depth: number, value: number) => void
  /** Headings of what stands behind the columns. */
  more?: string[]
  width?: number
  /** Whether each column is as warm as it gets somewhere, or only the warmest of all. */
  warmest?: 'each' | 'all'
}) {
  const depth = useGame((state) => state.depth)
  const scale = useDepthScale()
  const whole = rangeOf(rows.flatMap((row) => row.cells))
  const ranges = columns.map((_, at) =>
    warmest === 'all' ? whole : rangeOf(rows.map((row) => row.cells[at] ?? null)),
  )
  const holdOf = (row: Row, what: string | number | undefined, value: number | null) => {
    if (!onHold || row.kind !== 'depth' || !value || what === undefined) return undefined
    return () => onHold(what, row.depth, value)
  }
  const cellOf = (row: Row, at: number): Cell => {
    const column = columns[at]
    if (!column) {
      const number = row.more[at - columns.length] ?? null
      return {
        text: figures(number) || '–',
        onHold: holdOf(row, at - columns.length, number),
      }
    }
    const cell = row.cells[at] ?? null
    return {
      text: written(cell, figure),
      heat: heatOf(cell, figure, ranges[at] ?? whole),
      onHold: holdOf(row, column.id, cell),
    }
  }
  return (
    <DepthTable
      label={label}
      width={width}
      labelWidth={LABEL[rows[0]?.kind ?? 'depth']}
      heads={[
        ...columns.map((column) => ({
          key: column.id,
          head: (
            <Head
              column={column}
              isChosen={chosen.includes(column.id)}
              mark={mark(column.id)}
              onChoose={() => onChoose(column.id)}
            />
          ),
        })),
        ...more.map((word) => ({
          key: `more ${word}`,
          head: <span className="text-muted">{word}</span>,
        })),
      ]}
      rows={withRoom(rows, scale, depth).map((row) => ({
        key: row.key,
        label: row.label,
        y: row.y,
        depth: row.depth,
        here: row.here,
        named: row.kind === 'band',
        dim: !row.met,
        cell: (at) => cellOf(row, at),
      }))}
    />
  )
}

function Head({
  column,
  isChosen,
  mark,
  onChoose,
}: {
  column: Column
  isChosen: boolean
  mark: ReactNode
  onChoose: () => void
}) {
  return (
    <span className="flex items-end justify-end gap-1">
      <button
        type="button"
        aria-pressed={isChosen}
        title={`${column.name}: draw it as a line`}
        className={`name min-w-0 text-right text-tiny leading-[1.05] ${isChosen ? 'font-semibold underline decoration-gold decoration-2' : 'text-muted'}`}
        onClick={onChoose}
      >
        <span className="line-clamp-2">{column.name}</span>
      </button>
      {mark}
    </span>
  )
}

// The rows of a table over depth: one for each depth that there is room for, or one for each band.
import { toast } from 'sonner'
import { shownDepths, type DepthScale } from '@/plots/DepthFrame'
import type { Column } from './columns'

export interface Row {
  key: string
  label: string
  kind: 'depth' | 'band'
  y: number
  depth: number
  met: boolean
  here: boolean
  cells: (number | null)[]
  /** What stands behind the columns. */
  more: (number | null)[]
}

interface Band {
  name: string
  from: number
  to: number
}

export function depthRows(
  depths: number[],
  columns: Column[],
  scale: DepthScale,
  depth: number,
  met: (row: number) => boolean = () => true,
  more: (row: number) => (number | null)[] = () => [],
): Row[] {
  return depths.map((d, row) => ({
    key: String(d),
    label: String(d),
    kind: 'depth',
    y: scale.y(d),
    depth: d,
    met: met(row),
    here: d === depth,
    cells: columns.map((column) => column.numbers[row] ?? null),
    more: more(row),
  }))
}

/** One event at any depth of each band. */
export function bandRows(
  bands: Band[],
  columns: Column[],
  scale: DepthScale,
  depth: number,
  more: (at: number) => (number | null)[] = () => [],
): Row[] {
  return bands.map((band, at) => ({
    key: band.name,
    label: band.name,
    kind: 'band',
    y: (scale.y(band.from) + scale.y(band.to)) / 2,
    depth: Math.round((band.from + band.to) / 2),
    met: true,
    here: band.from <= depth && depth <= band.to,
    cells: columns.map((column) => column.byBand[at] ?? null),
    more: more(at),
  }))
}

/** Those that there is room for; bands all. */
export function withRoom(rows: Row[], scale: DepthScale, depth: number): Row[] {
  const shown = new Set(shownDepths(scale, depth))
  return rows.filter((row) => row.kind === 'band' || shown.has(row.depth))
}

/** All rows, tab-separated; numbers in full. */
export function copyRows(rows: Row[], columns: Column[], more: string[] = []): void {
  const head = [rows[0]?.kind ?? 'depth', ...columns.map((column) => column.name), ...more]
  const lines = rows.map((row) => [row.label, ...row.cells, ...row.more].map((one) => one ?? ''))
  void navigator.clipboard.writeText([head, ...lines].map((line) => line.join('\t')).join('\n'))
  toast('Copied; paste it into a spreadsheet', { duration: 1600 })
}

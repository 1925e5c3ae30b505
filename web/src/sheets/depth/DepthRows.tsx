// The table of a depth sheet: a row for each depth (or band) at its place on the plumb line, a column
// for each item.
import { toast } from 'sonner'
import type { DepthSheet } from '@/api/types'
import { setDepth, useGame } from '@/game/store'
import { shownDepths, type DepthScale } from '@/plots/DepthFrame'
import { figures } from '@/ui/format'
import { TierMark } from '@/ui/Marks'
import { isMet, type Column } from './columns'
import { figureOf, written, type Figure, type Told } from './figures'

const COLUMN = 58
const LABEL = { depth: 30, band: 96 }

export interface Row {
  key: string
  label: string
  kind: 'depth' | 'band'
  /** The middle of the row on the scale, and the depth it leads to. */
  y: number
  depth: number
  met: boolean
  shown: boolean
  here: boolean
  cells: (number | null)[]
  value: number
  cv: number | null
}

export function depthRows(
  sheet: DepthSheet,
  columns: Column[],
  scale: DepthScale,
  depth: number,
): Row[] {
  const shown = new Set(shownDepths(scale, depth))
  return sheet.depths.map((d, row) => ({
    key: String(d),
    label: String(d),
    kind: 'depth',
    y: scale.y(d),
    depth: d,
    met: isMet(sheet, row),
    shown: shown.has(d),
    here: d === depth,
    cells: columns.map((column) => column.numbers[row] ?? null),
    value: sheet.value_mean[row] ?? 0,
    cv: sheet.cv[row] ?? null,
  }))
}

/** One event at any depth of each band. */
export function bandRows(
  sheet: DepthSheet,
  columns: Column[],
  told: Told,
  scale: DepthScale,
): Row[] {
  return sheet.bands.map((band) => ({
    key: band.name,
    label: band.name,
    kind: 'band',
    y: (scale.y(band.from) + scale.y(band.to)) / 2,
    depth: Math.round((band.from + band.to) / 2),
    met: true,
    shown: true,
    here: false,
    cells: columns.map(({ item }) => {
      const odds = band.items[item.id]
      return odds ? figureOf(odds.p_any, odds.mean, item.value, told) : null
    }),
    value: band.value_mean,
    cv: band.cv,
  }))
}

export function DepthRows({
  rows,
  columns,
  figure,
  chosen,
  onChoose,
}: {
  rows: Row[]
  columns: Column[]
  figure: Figure
  chosen: string[]
  onChoose: (id: string) => void
}) {
  const { parts } = useGame()
  const label = LABEL[rows[0]?.kind ?? 'depth']
  const most = columns.map((_, at) => Math.max(...rows.map((row) => row.cells[at] ?? 0), 1e-300))
  return (
    <table
      aria-label="figures by depth"
      className="num relative border-collapse text-[11px]"
      style={{ marginTop: -34, width: COLUMN * (columns.length + 2) + label }}
    >
      <thead>
        <tr style={{ height: 34 }} className="align-bottom">
          <th style={{ width: label }} />
          {columns.map(({ item }) => (
            <th key={item.id} style={{ width: COLUMN }} className="px-0.5 font-normal">
              <button
                type="button"
                aria-pressed={chosen.includes(item.id)}
                title={`${item.name}: draw it as a line`}
                className={`name flex w-full items-end justify-end gap-1 text-right text-[11px] leading-[1.05] ${chosen.includes(item.id) ? 'font-semibold underline decoration-gold decoration-2' : 'text-muted'}`}
                onClick={() => onChoose(item.id)}
              >
                <span className="line-clamp-2">{item.name}</span>
                <TierMark tier={parts.tier.get(item.tier)} size={10} />
              </button>
            </th>
          ))}
          {[parts.settings.currency, 'cv'].map((head) => (
            <th
              key={head}
              style={{ width: COLUMN }}
              className="text-right text-[11px] font-normal text-muted"
            >
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows
          .filter((row) => row.shown)
          .map((row) => (
            <tr
              key={row.key}
              className={`absolute z-10 flex items-center bg-paper ${row.met ? '' : 'opacity-35'} ${row.here ? 'font-semibold' : ''}`}
              style={{ top: 34 + row.y - 7.5, height: 15 }}
            >
              <td
                style={{ width: label }}
                className={`pr-1.5 text-right text-muted ${row.kind === 'band' ? 'name' : ''}`}
              >
                <button type="button" tabIndex={-1} onClick={() => setDepth(row.depth)}>
                  {row.label}
                </button>
              </td>
              {row.cells.map((cell, at) => (
                <td
                  key={columns[at]?.item.id}
                  style={{ width: COLUMN, background: tint((cell ?? 0) / (most[at] ?? 1)) }}
                  className="px-1 text-right leading-[15px]"
                >
                  {written(cell, figure)}
                </td>
              ))}
              <td style={{ width: COLUMN }} className="px-1 text-right">
                {figures(row.value)}
              </td>
              <td style={{ width: COLUMN }} className="px-1 text-right text-muted">
                {figures(row.cv) || '–'}
              </td>
            </tr>
          ))}
      </tbody>
    </table>
  )
}

/** A light heat: gold is for acting, so the tint is the verdigris of the paper's edge. */
function tint(share: number): string {
  return `color-mix(in srgb, #2f8c7f ${Math.round(26 * share)}%, #f6f1e6)`
}

export function copyRows(rows: Row[], columns: Column[], first: string): void {
  const head = [first, ...columns.map((column) => column.item.name), 'value', 'cv']
  const lines = rows.map((row) => [
    row.label,
    ...row.cells.map((cell) => cell ?? ''),
    row.value,
    row.cv ?? '',
  ])
  void navigator.clipboard.writeText([head, ...lines].map((line) => line.join('\t')).join('\n'))
  toast('Copied; paste it into a spreadsheet', { duration: 1600 })
}

// A source or table along all depths: tier shares, and any figure of every item, row by row beside the
// plumb line; lines for the items that are chosen.
import { useState } from 'react'
import { toast } from 'sonner'
import { useDepths } from '@/api/queries'
import type { DepthSheet as Sheet, Item } from '@/api/types'
import { setDepth, useGame } from '@/game/store'
import { AlongSwitch } from '@/app/AlongSwitch'
import { DepthFrame, shownDepths, useDepthScale, type DepthScale } from '@/plots/DepthFrame'
import { DepthLines } from '@/plots/DepthLines'
import { TierShares } from '@/plots/TierShares'
import { figures } from '@/ui/format'
import { TierMark } from '@/ui/Marks'
import { FIGURES, figureOf, written, type Figure } from './figures'

const COLUMN = 58

interface Column {
  item: Item
  numbers: (number | null)[]
}

export function DepthSheet() {
  const { parts, sheet, depth } = useGame()
  const { data } = useDepths()
  const scale = useDepthScale()
  const [figure, setFigure] = useState<Figure>('per_100')
  const [of, setOf] = useState<'falls' | 'worth'>('falls')
  const [log, setLog] = useState(false)
  const [chosen, setChosen] = useState<string[]>([])
  const part =
    sheet?.kind === 'source' ? parts.source.get(sheet.id) : parts.table.get(sheet?.id ?? '')
  if (!part) return <p className="p-6 text-muted">This is gone.</p>
  const perHour = 'seconds' in part ? 3600 / part.seconds : 1
  const columns = data ? columnsOf(data, [...parts.item.values()], figure, perHour, depth) : []
  const toggle = (id: string) =>
    setChosen(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id])
  const shownFigures = (Object.keys(FIGURES) as Figure[]).filter(
    (one) => one !== 'hour' || 'seconds' in part,
  )
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1.5">
        <div className="flex items-baseline gap-3">
          <span className="name truncate text-[24px] leading-8">{part.name}</span>
          <span className="ml-auto">
            <AlongSwitch />
          </span>
        </div>
        <div className="flex flex-wrap items-baseline gap-x-3 text-[12px] text-muted">
          <span>
            tiers of what{' '}
            <Choice
              label="tier shares of what"
              value={of}
              options={{ falls: 'falls', worth: 'it is worth' }}
              onChange={(next) => setOf(next as 'falls' | 'worth')}
            />
          </span>
          <span>
            items:{' '}
            <Choice
              label="figure"
              value={figure}
              options={Object.fromEntries(shownFigures.map((one) => [one, FIGURES[one]]))}
              onChange={(next) => setFigure(next as Figure)}
            />
          </span>
          <button type="button" className="choice text-ink" onClick={() => setLog(!log)}>
            {log ? 'log lines' : 'linear lines'}
          </button>
          <button
            type="button"
            className="choice text-ink"
            onClick={() => data && copy(data, columns)}
          >
            copy the table
          </button>
        </div>
      </header>
      <DepthFrame>
        {data && (
          <div className="flex" style={{ width: 'max-content' }}>
            <div className="relative ml-3">
              <TierShares sheet={data} of={of} scale={scale} width={92} />
            </div>
            {chosen.length > 0 && (
              <DepthLines
                scale={scale}
                log={log}
                title={FIGURES[figure]}
                lines={columns
                  .filter((column) => chosen.includes(column.item.id))
                  .map((column) => ({
                    id: column.item.id,
                    name: column.item.name,
                    colour: parts.tier.get(column.item.tier)?.colour ?? '#231c17',
                    values: inMet(data, column.numbers),
                  }))}
              />
            )}
            <Rows
              data={data}
              columns={columns}
              figure={figure}
              scale={scale}
              onChoose={toggle}
              chosen={chosen}
            />
          </div>
        )}
      </DepthFrame>
    </div>
  )
}

/** Items that can fall, the most frequent at the depth in view first. */
function columnsOf(
  data: Sheet,
  items: Item[],
  figure: Figure,
  perHour: number,
  depth: number,
): Column[] {
  const row = data.depths.indexOf(depth)
  return items
    .filter((item) => data.items[item.id])
    .map((item) => ({ item, numbers: figureOf(data, item.id, figure, item.value, perHour) }))
    .sort(
      (a, b) => (data.items[b.item.id]?.mean[row] ?? 0) - (data.items[a.item.id]?.mean[row] ?? 0),
    )
}

function inMet(data: Sheet, numbers: (number | null)[]): (number | null)[] {
  return numbers.map((value, row) => {
    const d = data.depths[row] ?? 0
    return d < data.met[0] || d > data.met[1] ? null : value
  })
}

function Rows({
  data,
  columns,
  figure,
  scale,
  chosen,
  onChoose,
}: {
  data: Sheet
  columns: Column[]
  figure: Figure
  scale: DepthScale
  chosen: string[]
  onChoose: (id: string) => void
}) {
  const { parts, depth } = useGame()
  const shown = shownDepths(scale, depth)
  return (
    <table
      aria-label="figures by depth"
      className="num relative border-collapse text-[11px]"
      style={{ marginTop: -34, width: COLUMN * (columns.length + 2) + 30 }}
    >
      <thead>
        <tr style={{ height: 34 }} className="align-bottom">
          <th style={{ width: 30 }} />
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
          <th style={{ width: COLUMN }} className="text-right text-[11px] font-normal text-muted">
            {parts.settings.currency}
          </th>
          <th style={{ width: COLUMN }} className="text-right text-[11px] font-normal text-muted">
            cv
          </th>
        </tr>
      </thead>
      <tbody>
        {shown.map((d) => {
          const row = d - scale.from
          const met = d >= data.met[0] && d <= data.met[1]
          return (
            <tr
              key={d}
              className={`absolute z-10 flex items-center bg-paper ${met ? '' : 'opacity-35'} ${d === depth ? 'font-semibold' : ''}`}
              style={{ top: 34 + scale.y(d) - 7.5, height: 15 }}
            >
              <td style={{ width: 30 }} className="pr-1.5 text-right text-muted">
                <button type="button" tabIndex={-1} onClick={() => setDepth(d)}>
                  {d}
                </button>
              </td>
              {columns.map((column) => (
                <td
                  key={column.item.id}
                  style={{ width: COLUMN, background: tint(column, row) }}
                  className="px-1 text-right leading-[15px]"
                >
                  {written(column.numbers[row], figure)}
                </td>
              ))}
              <td style={{ width: COLUMN }} className="px-1 text-right">
                {figures(data.value_mean[row])}
              </td>
              <td style={{ width: COLUMN }} className="px-1 text-right text-muted">
                {figures(data.cv[row] ?? null) || '–'}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

/** A light heat: gold is for acting, so the tint is the verdigris of the paper's edge. */
function tint(column: Column, row: number): string {
  const value = column.numbers[row] ?? 0
  const most = Math.max(...column.numbers.map((one) => one ?? 0), 1e-300)
  return `color-mix(in srgb, #2f8c7f ${Math.round((26 * value) / most)}%, #f6f1e6)`
}

function Choice({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: string
  options: Record<string, string>
  onChange: (value: string) => void
}) {
  return (
    <select
      aria-label={label}
      className="choice bg-transparent text-ink"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {Object.entries(options).map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  )
}

function copy(data: Sheet, columns: Column[]) {
  const head = ['depth', ...columns.map((column) => column.item.name), 'value', 'cv']
  const rows = data.depths.map((d, row) => [
    d,
    ...columns.map((column) => column.numbers[row] ?? ''),
    data.value_mean[row],
    data.cv[row] ?? '',
  ])
  void navigator.clipboard.writeText([head, ...rows].map((line) => line.join('\t')).join('\n'))
  toast('Copied; paste it into a spreadsheet', { duration: 1600 })
}

// Two things side by side, item by item: here and there, and how many times as much there is there.
import { useState } from 'react'
import type { DepthSheet, Item } from '@/api/types'
import { useGamePart } from '@/game/store'
import { figures } from '@/ui/format'
import { TierMark } from '@/ui/Marks'
import { figureOf, written, type Figure } from './figures'

/** A source or table at one depth. */
export interface Side {
  name: string
  sheet: DepthSheet
  perHour: number
  depth: number
}

interface Row {
  item: Item
  here: number | null
  there: number | null
  times: number | null
}

type Key = 'name' | 'here' | 'there' | 'times'
const WIDEST = 10

export function CompareRows({
  here,
  there,
  figure,
  height,
  chosen,
  onChoose,
}: {
  here: Side
  there: Side | null
  figure: Figure
  height: number
  chosen: string[]
  onChoose: (id: string) => void
}) {
  const { parts } = useGamePart('parts')
  const [key, setKey] = useState<Key>('here')
  const word = parts.settings.words?.depth ?? 'depth'
  if (!there) return null
  const rows = [...parts.item.values()]
    .map((item) => rowOf(item, here, there, figure))
    .filter((row) => row !== null)
    .sort(by(key))
  const heads: [Key, string][] = [
    ['name', 'item'],
    ['here', heading(here, word)],
    ['there', heading(there, word)],
    ['times', 'times as much'],
  ]
  return (
    <div className="relative z-10 ml-4 overflow-y-auto bg-paper" style={{ marginTop: -34, height }}>
      <table aria-label="side by side" className="num border-collapse text-[12px]">
        <thead>
          <tr style={{ height: 34 }} className="align-bottom">
            {heads.map(([one, words]) => (
              <th
                key={one}
                aria-sort={one === key ? 'descending' : undefined}
                className={`max-w-[130px] px-2 font-normal ${one === 'name' ? 'text-left' : 'text-right'}`}
              >
                <button
                  type="button"
                  className={`text-right text-[11.5px] leading-[1.1] ${one === key ? 'text-ink underline decoration-gold decoration-2 underline-offset-2' : 'text-muted'}`}
                  onClick={() => setKey(one)}
                >
                  {words}
                </button>
              </th>
            ))}
            <th>
              <span className="sr-only">what</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <Whole
            name={`${parts.settings.currency} an event`}
            here={worth(here)}
            there={worth(there)}
          />
          <Whole name="cv" here={swing(here)} there={swing(there)} />
          {rows.map((row) => (
            <tr key={row.item.id} className="border-t border-hair/60">
              <td className="py-[1px] pr-2">
                <button
                  type="button"
                  aria-pressed={chosen.includes(row.item.id)}
                  title={`${row.item.name}: draw both as lines`}
                  className={`name flex items-center gap-2 ${chosen.includes(row.item.id) ? 'underline decoration-gold decoration-2' : ''}`}
                  onClick={() => onChoose(row.item.id)}
                >
                  <TierMark tier={parts.tier.get(row.item.tier)} size={11} />
                  {row.item.name}
                </button>
              </td>
              <td className="px-2 text-right">{written(row.here, figure)}</td>
              <td className="px-2 text-right">{written(row.there, figure)}</td>
              <td className="px-2 text-right">{times(row)}</td>
              <td>
                <Bar times={row.times} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function heading({ name, sheet, depth }: Side, word: string): string {
  const met = depth >= sheet.met[0] && depth <= sheet.met[1]
  return met ? name : `${name}, though not met at this ${word}`
}

function Whole({ name, here, there }: { name: string; here: number | null; there: number | null }) {
  return (
    <tr className="text-muted">
      <td>{name}</td>
      <td className="px-2 text-right">{figures(here) || '–'}</td>
      <td className="px-2 text-right">{figures(there) || '–'}</td>
      <td className="px-2 text-right">{here && there ? `×${figures(there / here)}` : ''}</td>
    </tr>
  )
}

/** Left of the middle for less, right for more; a tenth and ten times reach the ends. */
function Bar({ times }: { times: number | null }) {
  if (times === null) return null
  const share = Math.max(-1, Math.min(1, Math.log(times) / Math.log(WIDEST)))
  return (
    <svg width="96" height="9" aria-hidden className="block">
      <line x1="48" x2="48" y1="0" y2="9" stroke="#a89d8f" />
      <rect
        x={share < 0 ? 48 + 46 * share : 48}
        y="1.5"
        width={Math.max(1, Math.abs(46 * share))}
        height="6"
        fill={share < 0 ? '#a89d8f' : '#12312c'}
      />
    </svg>
  )
}

function rowOf(item: Item, here: Side, there: Side, figure: Figure): Row | null {
  const [a, b] = [meanOf(item, here), meanOf(item, there)]
  if (a <= 0 && b <= 0) return null
  return {
    item,
    here: numberOf(item, here, figure),
    there: numberOf(item, there, figure),
    times: a > 0 && b > 0 ? b / a : null,
  }
}

function times(row: Row): string {
  if (row.times !== null) return `×${figures(row.times)}`
  return row.here ? 'not there' : 'only there'
}

function numberOf(item: Item, side: Side, figure: Figure): number | null {
  const row = side.sheet.depths.indexOf(side.depth)
  const known = side.sheet.items[item.id]
  const here = { p_any: known?.p_any[row] ?? 0, mean: meanOf(item, side), cv: known?.cv?.[row] }
  return figureOf(here, { figure, perHour: side.perHour, value: item.value })
}

function meanOf(item: Item, side: Side): number {
  return side.sheet.items[item.id]?.mean[side.sheet.depths.indexOf(side.depth)] ?? 0
}

function worth(side: Side): number | null {
  return side.sheet.value_mean[side.sheet.depths.indexOf(side.depth)] ?? null
}

function swing(side: Side): number | null {
  return side.sheet.cv[side.sheet.depths.indexOf(side.depth)] ?? null
}

function by(key: Key): (a: Row, b: Row) => number {
  if (key === 'name') return (a, b) => a.item.name.localeCompare(b.item.name)
  return (a, b) => (b[key] ?? 0) - (a[key] ?? 0)
}

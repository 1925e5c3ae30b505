// Two things side by side, item by item: here and there, and how many times as much there is there.
import type { DepthSheet, Item } from '@/api/types'
import { useGamePart } from '@/game/store'
import { figures } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { figureOf, written, type Figure } from './figures'

/** A source or table at one depth. */
export interface Side {
  name: string
  sheet: DepthSheet
  perHour: number
  depth: number
}

interface Row {
  item: Item | null
  name: string
  here: number | null
  there: number | null
  times: number | null
}

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
  const word = parts.settings.words?.depth ?? 'depth'
  if (!there) return null
  const rows = [...parts.item.values()]
    .map((item) => rowOf(item, here, there, figure))
    .filter((row) => row !== null)
    .sort((a, b) => (b.here ?? 0) - (a.here ?? 0))
  const shown = (row: Row, of: number | null) =>
    row.item ? written(of, figure) : figures(of) || '–'
  const columns: DataColumn<Row>[] = [
    {
      id: 'name',
      head: 'item',
      align: 'left',
      value: (row) => row.name,
      cell: (row) =>
        row.item && (
          <span
            className={`name flex items-center gap-2 ${chosen.includes(row.item.id) ? 'underline decoration-gold decoration-2' : ''}`}
          >
            <TierMark tier={parts.tier.get(row.item.tier)} size={11} />
            {row.name}
          </span>
        ),
    },
    {
      id: 'here',
      head: heading(here, word),
      value: (row) => row.here,
      cell: (row) => shown(row, row.here),
    },
    {
      id: 'there',
      head: heading(there, word),
      value: (row) => row.there,
      cell: (row) => shown(row, row.there),
    },
    { id: 'times', head: 'times as much', value: (row) => row.times, cell: times },
    {
      id: 'bar',
      head: 'less or more',
      aside: true,
      value: () => null,
      cell: (row) => row.item && <Bar times={row.times} />,
    },
  ]
  return (
    <div
      // Its rows are no depths: the gold line ends before them.
      className="relative z-10 ml-4 overflow-y-auto bg-paper pr-2 shadow-[100vw_0_0_0_var(--color-paper)]"
      style={{ marginTop: -34, height }}
    >
      <DataTable
        label="side by side"
        columns={columns}
        rows={rows}
        keyOf={(row) => row.name}
        isChosen={(row) => chosen.includes(row.item?.id ?? '')}
        onOpen={(row) => row.item && onChoose(row.item.id)}
        foot={[
          whole(`${parts.settings.currency} an event`, worth(here), worth(there)),
          whole('cv', swing(here), swing(there)),
        ]}
      />
    </div>
  )
}

function heading({ name, sheet, depth }: Side, word: string): string {
  const met = depth >= sheet.met[0] && depth <= sheet.met[1]
  return met ? name : `${name}, though not met at this ${word}`
}

/** Of all items together. */
function whole(name: string, here: number | null, there: number | null): Row {
  return { item: null, name, here, there, times: here && there ? there / here : null }
}

/** Left of the middle for less, right for more; a tenth and ten times reach the ends. */
function Bar({ times }: { times: number | null }) {
  if (times === null) return null
  const share = Math.max(-1, Math.min(1, Math.log(times) / Math.log(WIDEST)))
  return (
    <svg width="96" height="9" aria-hidden className="block">
      <line x1="48" x2="48" y1="0" y2="9" stroke="var(--color-ghost)" />
      <rect
        x={share < 0 ? 48 + 46 * share : 48}
        y="1.5"
        width={Math.max(1, Math.abs(46 * share))}
        height="6"
        fill={share < 0 ? 'var(--color-ghost)' : 'var(--color-pine)'}
      />
    </svg>
  )
}

function rowOf(item: Item, here: Side, there: Side, figure: Figure): Row | null {
  const [a, b] = [meanOf(item, here), meanOf(item, there)]
  if (a <= 0 && b <= 0) return null
  return {
    item,
    name: item.name,
    here: numberOf(item, here, figure),
    there: numberOf(item, there, figure),
    times: a > 0 && b > 0 ? b / a : null,
  }
}

function times(row: Row): string {
  if (row.times !== null) return `×${figures(row.times)}`
  if (!row.item) return ''
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

// Every item: from where, at which depths, how long until half of all players have one, the best place.
import type { Item, Overview } from '@/api/types'
import { setDepth, show, useGame } from '@/game/store'
import { percent, whole } from '@/text/format'
import { TierNamed } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { spanText } from './words'

type Covered = Overview['coverage'][string]

interface Row {
  item: Item
  of: Covered
}

const NONE: Covered = {
  ...{ count: 0, sources: [], best: null, limited: false, with: [], without: [], ever: false },
}

export function Coverage({ data }: { data: Overview }) {
  const parts = useGame((state) => state.parts)
  const word = parts.settings.words?.depth ?? 'depth'
  const player = parts.settings.words?.player ?? 'player'
  const rows = [...parts.item.values()].map((item) => ({
    item,
    of: data.coverage[item.id] ?? NONE,
  }))
  const named = (source: string) => parts.source.get(source)?.name ?? source
  const missing = rows.filter((row) => !row.of.count).length
  const columns: DataColumn<Row>[] = [
    {
      id: 'item',
      head: 'item',
      align: 'left',
      value: (row) => row.item.name,
      cell: (row) => <TierNamed tier={parts.tier.get(row.item.tier)} name={row.item.name} small />,
    },
    {
      id: 'hours',
      head: `half of all ${player}s have one in`,
      value: (row) => row.of.best?.hours ?? null,
      cell: (row) => soon(row.of),
    },
    {
      id: 'place',
      head: 'at the best place',
      align: 'left',
      value: (row) => (row.of.best ? named(row.of.best.source) : ''),
      cell: (row) =>
        row.of.best && <BestPlace best={row.of.best} name={named(row.of.best.source)} />,
    },
    { id: 'depth', head: word, value: (row) => row.of.best?.depth ?? null },
    {
      id: 'chance',
      head: 'chance there, %',
      value: (row) => (row.of.best ? 100 * row.of.best.chance : null),
      cell: (row) => row.of.best && percent(row.of.best.chance),
    },
    {
      id: 'sources',
      head: 'from',
      align: 'left',
      value: (row) => row.of.sources.map((one) => named(one.id)).join(', '),
      cell: (row) => (
        <span className="text-muted" title={row.of.sources.map((one) => spanOf(one)).join('\n')}>
          {row.of.count === 0 ? '' : row.of.count === 1 ? 'one source' : `${row.of.count} sources`}
        </span>
      ),
    },
    {
      id: 'besides',
      head: 'besides',
      align: 'left',
      value: (row) => besides(row.of).join('; '),
      cell: (row) => (
        <span className={row.of.count ? 'text-muted' : 'text-bad'}>
          {besides(row.of).join('; ')}
        </span>
      ),
    },
  ]
  const flagName = (flag: string) => parts.flag.get(flag)?.name ?? flag
  return (
    <section aria-label="coverage" className="pt-5">
      <h2 className="head pb-1">
        Every item{' '}
        <span className="label">
          {missing === 0
            ? 'all can be had'
            : `${whole(missing)} of ${whole(rows.length)} cannot be had as flags are`}
        </span>
      </h2>
      <DataTable
        label="every item"
        columns={columns}
        rows={rows}
        keyOf={(row) => row.item.id}
        onOpen={(row) => show({ kind: 'item', id: row.item.id })}
      />
    </section>
  )

  function spanOf({ id, from, to }: { id: string; from: number; to: number }): string {
    return `${named(id)}, ${from === to ? from : `${from} to ${to}`}`
  }

  function besides(of: Covered): string[] {
    const or = (flags: string[]) => flags.map(flagName).join(' or ')
    return [
      !of.count && !of.ever ? 'cannot be had at all' : '',
      of.with.length ? `only once ${or(of.with)}` : '',
      !of.count && of.ever && !of.with.length ? 'only with several flags' : '',
      of.without.length ? `not any more once ${or(of.without)}` : '',
      of.limited ? 'only so many times, ever' : '',
    ].filter(Boolean)
  }
}

function BestPlace({ best, name }: { best: NonNullable<Covered['best']>; name: string }) {
  return (
    <button
      type="button"
      className="name hover:bg-gold-wash"
      onClick={(event) => {
        event.stopPropagation()
        setDepth(best.depth)
        show({ kind: 'source', id: best.source })
      }}
    >
      {name}
    </button>
  )
}

function soon({ best }: Covered): string {
  if (!best) return ''
  if (best.hours !== null) return spanText(best.hours)
  return best.price !== null ? `${whole(best.price)} spent` : 'not told'
}

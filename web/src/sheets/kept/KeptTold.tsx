// What is kept of what was received: where the bag fills, what is left behind, the purse, what was refused. In the
// report of a trial, and beside a route.
import type { KeptParts } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { SpanPlot } from '@/plots/Span'
import { figures, percent } from '@/text/format'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { itemColumn } from '@/ui/table/itemColumn'

interface KeptProps {
  kept: KeptParts
  /** Whose it is: it goes into the names of tables and pictures. */
  name: string
  /** Depths of the stops, for a route. */
  depths: number[] | null
  isNarrow?: boolean
}

export function KeptTold({ kept, name, depths, isNarrow = false }: KeptProps) {
  const parts = useGame((state) => state.parts)
  const along = depths !== null
  const shift = along ? 1 : 0
  const unit = along ? 'stop' : 'event'
  const bag = kept.kept?.bag
  return (
    <>
      <Words kept={kept} depths={depths} parts={parts} />
      <div className={isNarrow ? 'space-y-3' : 'grid grid-cols-2 gap-6'}>
        {bag && (
          <div>
            <p className="label">cells in use of {bag.cells}, mean and 5–95&#8239;%</p>
            <SpanPlot
              name={`cells in use, ${name}`}
              says={`Full for ${percent(bag.ever_full)} of 100 at some time`}
              unit={unit}
              {...(isNarrow && { width: 320 })}
              points={bag.along.map((one) => ({ ...one, at: one.at + shift }))}
              bounds={[bag.cells]}
            />
          </div>
        )}
        {Object.entries(kept.purse?.money ?? {}).map(([item, money]) => (
          <div key={item}>
            <p className="label">{parts.item.get(item)?.name ?? item} in the purse</p>
            <SpanPlot
              name={`${parts.item.get(item)?.name ?? item} in the purse, ${name}`}
              says={`In the end ${figures(money.mean)}`}
              unit={unit}
              {...(isNarrow && { width: 320 })}
              points={money.along.map((one) => ({ ...one, at: one.at + shift }))}
            />
          </div>
        ))}
      </div>
      <Items kept={kept} parts={parts} name={name} isNarrow={isNarrow} />
    </>
  )
}

function Words({
  kept,
  depths,
  parts,
}: {
  kept: KeptParts
  depths: number[] | null
  parts: Parts
}) {
  const { currency, words } = parts.settings
  const bag = kept.kept?.bag
  const worth = kept.kept?.worth
  const openings = kept.kept?.openings
  const bought = Object.entries(kept.purse?.bought ?? {})
  const full = bag?.full_for_half
  return (
    <p className="pb-2 text-body leading-6">
      {bag && (
        <>
          {full === null || full === undefined ? (
            <>
              The bag is full at some time for{' '}
              <b className="num">{percent(bag.ever_full)}&#8239;%</b>.{' '}
            </>
          ) : (
            <>
              For half the bag is full by stop <b className="num">{full + 1}</b>
              {depths && `, at ${words?.depth ?? 'depth'} ${depths[full]}`}.{' '}
            </>
          )}
        </>
      )}
      {worth && (
        <Gone
          told={[
            ['left behind', worth.left],
            ['out of reach', worth.missed],
            ['lost in containers', worth.lost],
          ]}
          currency={currency}
        />
      )}
      {openings && openings.short > 0 && (
        <>
          Something does not fit in <b className="num">{percent(openings.short)}&#8239;%</b> of
          openings.{' '}
        </>
      )}
      {bought.map(([source, one]) => (
        <span key={source}>
          {parts.source.get(source)?.name ?? source} is bought{' '}
          <b className="num">{figures(one.bought)}</b> times
          {one.refused > 0 && (
            <>
              {' '}
              and refused <b className="num">{figures(one.refused)}</b> times
            </>
          )}
          {one.never > 0 && (
            <>
              ; <b className="num">{percent(one.never)}&#8239;%</b> can never buy it
            </>
          )}
          .{' '}
        </span>
      ))}
    </p>
  )
}

function Gone({ told, currency }: { told: [string, number][]; currency: string }) {
  const some = told.filter(([, worth]) => worth > 0)
  if (!some.length) return null
  return (
    <>
      Worth{' '}
      {some.map(([words, worth], at) => (
        <span key={words}>
          {at > 0 && (at === some.length - 1 ? ' and ' : ', ')}
          <b className="num">{figures(worth)}</b> {at === 0 && `${currency} `}
          {words}
        </span>
      ))}
      .{' '}
    </>
  )
}

function Items({
  kept,
  parts,
  name,
  isNarrow,
}: {
  kept: KeptParts
  parts: Parts
  name: string
  isNarrow: boolean
}) {
  const rows = Object.entries(kept.kept?.items ?? {})
    .map(([id, one]) => ({ id, item: parts.item.get(id), ...one }))
    .filter((row) => row.left + row.lost + row.missed > 0)
    .sort((a, b) => worthOf(b) - worthOf(a))
  if (!rows.length) return null
  type Row = (typeof rows)[number]
  const of = (id: 'left' | 'missed' | 'lost' | 'sold' | 'aside' | 'bag', head: string) => ({
    id,
    head,
    value: (row: Row) => row[id],
    cell: (row: Row) => (row[id] ? figures(row[id]) : ''),
  })
  const columns: DataColumn<Row>[] = [
    itemColumn(parts, 'not kept'),
    ...(
      [
        ['left', 'left behind'],
        ['missed', 'out of reach'],
        ['lost', 'lost'],
        ['sold', 'sold'],
        ['aside', 'put aside'],
        ['bag', 'in the bag'],
      ] as const
    )
      .slice(0, isNarrow ? 3 : 6)
      .filter(([id]) => rows.some((row) => row[id] > 0))
      .map(([id, head]) => of(id, head)),
  ]
  return (
    <div className="mt-2 max-h-64 overflow-auto">
      <DataTable
        label={`not kept, ${name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.id}
      />
    </div>
  )
}

const worthOf = (row: {
  item?: { value?: number } | undefined
  left: number
  lost: number
  missed: number
}) => (row.left + row.lost + row.missed) * (row.item?.value ?? 0)

// What one of each thing costs that a parcel gives, and how much of its price comes back.
import { Pending } from '@/ui/Pending'
import { useState, type ReactNode } from 'react'
import type { PriceOut } from '@/api/types'
import { usePrice } from '@/game/queries'
import { show, useGame } from '@/game/store'
import { Hold } from '@/sheets/target/Hold'
import { figures, percent, whole } from '@/text/format'
import { FoldButton } from '@/ui/Fold'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { itemColumn } from '@/ui/table/itemColumn'

type Cost = PriceOut['items'][string]

export function PriceTold({ source }: { source: string }) {
  const parts = useGame((state) => state.parts)
  const [open, setOpen] = useState(false)
  const price = usePrice(source)
  const { data } = price
  if (!data) return <Pending of={price} what="what it costs" />
  const money = parts.item.get(data.item)?.name ?? data.item
  const rows = Object.entries(data.items)
    .map(([id, cost]) => ({ id, item: parts.item.get(id), ...cost }))
    .sort((a, b) => (a.mean ?? Infinity) - (b.mean ?? Infinity))
  const dearest = rows.at(-1)
  // Of players who were played: none of them had one in all their purchases.
  const isExact = data.method === 'exact'
  const beyond = isExact ? 'never' : 'not told'
  type Row = (typeof rows)[number]
  const paid = (q: 50 | 90 | 99): DataColumn<Row> => ({
    id: `cost_${q}`,
    head: `${q === 50 ? 'half' : `${q} of 100`} pay at most`,
    value: (row) => row[`cost_${q}`],
    cell: (row) => {
      const cost = row[`cost_${q}`]
      const least = row.more_than[`cost_${q}`]
      return cost !== null ? whole(cost) : least ? `more than ${whole(least)}` : beyond
    },
  })
  return (
    <section aria-label="what it costs" className="border-b border-hair py-2 text-note">
      <p className="flex items-baseline gap-1.5 text-body">
        <FoldButton open={open} onOpen={setOpen} label="costs by item" className="self-center" />
        <span>
          {data.pays_back !== null && (
            <>
              <b className="num">{percent(data.pays_back)}&#8239;%</b> of its price comes back in
              the long run
            </>
          )}
          {dearest && (
            <>
              {data.pays_back === null ? 'One' : '; one'} {dearest.item?.name ?? dearest.id}{' '}
              {costWords(dearest, money, isExact)}
            </>
          )}
          .
        </span>
        <span className="label ml-auto">{data.method}</span>
      </p>
      {open && (
        <div className="max-h-64 overflow-auto">
          <DataTable
            label={`costs at ${parts.source.get(source)?.name ?? source}`}
            rows={rows}
            keyOf={(row) => row.id}
            onOpen={(row) => show({ kind: 'item', id: row.id })}
            columns={[
              itemColumn(parts, 'one of'),
              {
                id: 'mean',
                head: `costs, ${money}`,
                value: (row) => row.mean,
                cell: (row) =>
                  row.mean === null ? (
                    beyond
                  ) : (
                    <Hold
                      isPlain
                      source={source}
                      wish={{ figure: 'cost', item: row.id, wanted: row.mean }}
                    >
                      {figures(row.mean, 4)}
                    </Hold>
                  ),
              },
              paid(50),
              paid(90),
              paid(99),
            ]}
          />
        </div>
      )}
    </section>
  )
}

/** What the dearest costs on average, and what the unlucky pay. */
function costWords(
  cost: Pick<Cost, 'mean' | 'cost_90' | 'more_than'>,
  money: string,
  isExact: boolean,
): ReactNode {
  const paid90 = cost.cost_90 ?? cost.more_than.cost_90 ?? null
  return (
    <>
      {cost.mean === null ? (
        isExact ? (
          'is never had by some'
        ) : (
          'costs more than could be played'
        )
      ) : (
        <>
          costs <b className="num">{whole(cost.mean)}</b> {money} on average
        </>
      )}
      {paid90 === null ? (
        isExact && ', one buyer in ten never has one'
      ) : (
        <>
          , one buyer in ten pays at least <b className="num">{whole(paid90)}</b>
        </>
      )}
    </>
  )
}

// How often each good is on sale, how long one misses it, and whether one who looks now and then sees it.
import type { Stall, StallOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { Hold } from '@/sheets/target/Hold'
import { EditText } from '@/ui/EditText'
import { figures, percent } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { colourOf, goodName } from './goods'

interface GoodsProps {
  stall: Stall
  parts: Parts
  data: StallOut | undefined
  look: { every: number; times: number }
  onLook: (look: { every: number; times: number }) => void
}

export function Goods({ stall, parts, data, look, onLook }: GoodsProps) {
  const rows = Object.entries(data?.goods?.by_good ?? {}).map(([id, one]) => ({
    id,
    at: Object.keys(data?.shares ?? {}).indexOf(id) + 1,
    name: goodName(parts, stall, id),
    price: data?.prices[id] ?? 0,
    ...one,
  }))
  type Row = (typeof rows)[number]
  const looks = (key: 'every' | 'times') => (
    <EditText
      label={key === 'every' ? 'looks every so many periods' : 'how many looks'}
      text={String(look[key])}
      inputClass="num w-14"
      onCommit={(text) => {
        const value = typedNumber(text)
        if (value === null || !Number.isInteger(value) || value < 1 || value > 1000)
          return { message: 'a whole number from 1 to 1 000' }
        onLook({ ...look, [key]: value })
        return null
      }}
    />
  )
  const columns: DataColumn<Row>[] = [
    {
      id: 'good',
      head: 'good',
      align: 'left',
      value: (row) => row.name,
      cell: (row) => (
        <span className="flex items-center gap-2">
          <span className="num w-4 text-right text-muted">{row.at}</span>
          <span
            aria-hidden
            className="inline-block h-2.5 w-2.5 rounded-sm"
            style={{ background: colourOf(parts, stall, row.id) }}
          />
          <span className="name text-body">{row.name}</span>
        </span>
      ),
    },
    { id: 'price', head: 'costs', value: (row) => row.price, cell: (row) => figures(row.price) },
    {
      id: 'share',
      head: 'of periods, %',
      value: (row) => 100 * row.share,
      cell: (row) => (
        <Hold
          of={{ kind: 'stall', id: stall.id }}
          isPlain
          wish={{ figure: 'on-sale', wanted: row.share, good: row.id }}
        >
          {percent(row.share)}
        </Hold>
      ),
    },
    {
      id: 'absence',
      head: 'missing, mean',
      value: (row) => row.absence_mean,
      cell: (row) => figures(row.absence_mean),
    },
    { id: 'a99', head: '99 of 100', value: (row) => row.absence_99 },
    { id: 'longest', head: 'longest in 400', value: (row) => row.longest },
    {
      id: 'seen',
      head: 'seen, %',
      value: (row) => 100 * row.seen,
      cell: (row) => percent(row.seen),
    },
  ]
  const all = data?.goods?.until_all
  return (
    <section aria-label="goods" className="min-w-[380px] flex-1">
      <p className="text-body leading-7 text-muted">
        Who looks every {looks('every')} periods, {looks('times')} times, sees each good with the
        chance on the right.
        {all && (
          <>
            {' '}
            All have been on sale after <b className="num text-ink">{figures(all.mean)}</b> periods
            on average, at the most <b className="num text-ink">{figures(all.most)}</b>.
          </>
        )}{' '}
        <span className="label">
          {data && (data.method === 'exact' ? 'shares exact' : 'shares of 100 000 periods')}
        </span>
      </p>
      <DataTable
        label={`goods of ${stall.name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.id}
      />
    </section>
  )
}

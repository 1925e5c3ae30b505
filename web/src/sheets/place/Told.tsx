// What lies in a place: by line, and by item.
import type { Place, PlaceOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show } from '@/game/store'
import { Hold } from '@/sheets/target/Hold'
import { EditText } from '@/ui/EditText'
import { figures, percent } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { itemColumn } from '@/ui/table/itemColumn'
import { change } from '@/game/edit'

interface LinesProps {
  place: Place
  data: PlaceOut | undefined
  line: string | null
  nameOf: (line: string) => string
  onLine: (line: string | null) => void
}

export function LinesTold({ place, data, line, nameOf, onLine }: LinesProps) {
  const rows = Object.entries(data?.lines ?? {}).map(([id, one]) => ({ id, ...one }))
  type Row = (typeof rows)[number]
  const least = (row: Row) => place.least.find((one) => one.line === row.id)?.count ?? 0
  const columns: DataColumn<Row>[] = [
    {
      id: 'line',
      head: 'what lies there',
      align: 'left',
      value: (row) => nameOf(row.id),
      cell: (row) => <span className="name text-body">{nameOf(row.id)}</span>,
    },
    {
      id: 'wanted',
      head: 'wanted',
      value: (row) => row.wanted,
      cell: (row) => figures(row.wanted),
    },
    {
      id: 'placed',
      head: 'placed',
      value: (row) => row.placed,
      cell: (row) => figures(row.placed),
    },
    {
      id: 'all',
      head: 'all, %',
      value: (row) => 100 * row.all_placed,
      cell: (row) => percent(row.all_placed),
    },
    { id: 'may', head: 'spots', value: (row) => row.may },
    ...(place.way === 'shared-out'
      ? [
          {
            id: 'least',
            head: 'at least',
            value: least,
            cell: (row: Row) => (
              <span onClick={(event) => event.stopPropagation()}>
                <EditText
                  label={`at least, ${nameOf(row.id)}`}
                  text={String(least(row))}
                  inputClass="num w-12"
                  onCommit={(text) => {
                    const count = typedNumber(text)
                    if (count === null || !Number.isInteger(count) || count < 0)
                      return { message: 'a whole number from 0' }
                    const others = place.least.filter((one) => one.line !== row.id)
                    const own = count ? [{ line: row.id, count }] : []
                    return change('place', place.id, 'at least', { least: [...others, ...own] })
                  }}
                />
              </span>
            ),
          },
        ]
      : []),
  ]
  return (
    <section aria-label="lines">
      <DataTable
        label={`lines of ${place.name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.id}
        isChosen={(row) => row.id === line}
        onOpen={(row) => onLine(row.id === line ? null : row.id)}
      />
      <p className="label py-1">
        {line
          ? `The spots show ${nameOf(line)} alone.`
          : 'Choose a line, and the spots show it alone.'}
      </p>
    </section>
  )
}

export function ItemsTold({
  parts,
  data,
  name,
  id,
}: {
  parts: Parts
  data: PlaceOut | undefined
  name: string
  id: string
}) {
  const place = { kind: 'place', id } as const
  const rows = Object.entries(data?.items ?? {})
    .filter(([, one]) => one.mean > 0)
    .map(([id, one]) => ({ id, item: parts.item.get(id), ...one }))
    .sort((a, b) => b.mean - a.mean)
  type Row = (typeof rows)[number]
  const visits = data?.visit
  const columns: DataColumn<Row>[] = [
    itemColumn(parts, 'in the place'),
    {
      id: 'mean',
      head: 'mean',
      value: (row) => row.mean,
      cell: (row) => (
        <Hold of={place} isPlain wish={{ figure: 'mean', wanted: row.mean, item: row.id }}>
          {figures(row.mean)}
        </Hold>
      ),
    },
    {
      id: 'any',
      head: 'any, %',
      value: (row) => 100 * row.p_any,
      cell: (row) => (
        <Hold of={place} isPlain wish={{ figure: 'chance', wanted: row.p_any, item: row.id }}>
          {percent(row.p_any)}
        </Hold>
      ),
    },
    ...(visits
      ? [
          {
            id: 'hour',
            head: 'an hour',
            value: (row: Row) => visits.per_hour[row.id] ?? 0,
            cell: (row: Row) => figures(visits.per_hour[row.id] ?? 0),
          },
        ]
      : []),
  ]
  return (
    <section aria-label="items of the place" className="pt-2">
      <DataTable
        label={`items in ${name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.id}
        onOpen={(row) => show({ kind: 'item', id: row.id })}
      />
    </section>
  )
}

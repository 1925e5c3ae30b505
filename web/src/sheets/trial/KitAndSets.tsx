// What players of a trial wear in the end, which sets they have complete, and how their properties stand.
import type { TrialResult } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show } from '@/game/store'
import { figures, percent, whole, zText } from '@/text/format'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'

interface Row {
  id: string
  kind: 'kit' | 'set' | 'property'
  name: string
  mean: number
  p05: number | null
  p95: number | null
  expected: number | null | undefined
  z: number | null | undefined
  more: string
}

export function KitAndSets({
  result,
  parts,
  name,
}: {
  result: TrialResult
  parts: Parts
  name: string
}) {
  const rows = rowsOf(result, parts)
  if (!rows.length) return null
  const columns: DataColumn<Row>[] = [
    {
      id: 'name',
      head: 'kit, sets, properties',
      align: 'left',
      value: (row) => row.name,
      cell: (row) => <span className="name text-body">{row.name}</span>,
    },
    { id: 'mean', head: 'mean', value: (row) => row.mean, cell: (row) => told(row, row.mean) },
    {
      id: 'expected',
      head: 'expected',
      value: (row) => row.expected ?? null,
      cell: (row) => told(row, row.expected),
    },
    { id: 'z', head: 'z', term: 'z', value: (row) => row.z ?? null, cell: (row) => zText(row.z) },
    { id: 'p05', head: '5 %', value: (row) => row.p05, cell: (row) => figures(row.p05) },
    { id: 'p95', head: '95 %', value: (row) => row.p95, cell: (row) => figures(row.p95) },
    { id: 'more', head: 'besides', align: 'left', value: (row) => row.more },
  ]
  return (
    <section className="border-b border-hair py-3" aria-label="kit and sets">
      <p className="head">What is worn, and complete</p>
      <DataTable
        label={`kit and sets, ${name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => `${row.kind}/${row.id}`}
        onOpen={(row) => show({ kind: row.kind, id: row.kind === 'kit' ? 'all' : row.id })}
      />
    </section>
  )
}

const told = (row: Row, value: number | null | undefined) =>
  value === null || value === undefined
    ? ''
    : row.kind === 'set'
      ? `${percent(value, 4)}\u202f%`
      : figures(value, 4)

function rowsOf(result: TrialResult, parts: Parts): Row[] {
  const slots = Object.entries(result.slots ?? {}).map(([slot, one]): Row => ({
    id: slot,
    kind: 'kit',
    name: `worn, ${slot}`,
    mean: one.worn.mean,
    p05: one.worn.p05,
    p95: one.worn.p95,
    expected: one.worn.expected_mean,
    z: one.worn.z,
    more: `${figures(one.upgrades.mean)} upgrades${wait('; first for half by', one.first_50)}`,
  }))
  const sets = Object.entries(result.sets ?? {}).map(([id, one]): Row => ({
    id,
    kind: 'set',
    name: parts.set.get(id)?.name ?? id,
    mean: one.complete,
    p05: null,
    p95: null,
    expected: one.expected,
    z: one.z,
    more: [
      `${figures(one.pieces)} of ${one.of} kinds`,
      one.spare === null ? '' : `, ${figures(one.spare)} spare`,
      wait('; half by', one.first_50),
    ].join(''),
  }))
  const properties = Object.entries(result.properties ?? {}).map(([id, one]): Row => ({
    id,
    kind: 'property',
    name: parts.property.get(id)?.name ?? id,
    mean: one.mean,
    p05: one.p05,
    p95: one.p95,
    expected: null,
    z: null,
    more: [
      one.at_most ? `${percent(one.at_most)}\u202f% at its most` : '',
      one.at_least ? `${percent(one.at_least)}\u202f% at its least` : '',
    ]
      .filter(Boolean)
      .join(', '),
  }))
  return [...slots, ...sets, ...properties]
}

const wait = (words: string, by: number | null) => (by === null ? '' : `${words} ${whole(by)}`)

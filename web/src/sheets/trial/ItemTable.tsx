// Item by item: what was expected, what players received, and how long they waited.
import type { TrialItem, TrialOut, TrialResult } from '@/api/types'
import { useGame } from '@/game/store'
import { Bars, ZMark } from '@/plots/Bars'
import { DOTTED } from '@/ui/Explained'
import { figures, percent, whole } from '@/text/format'
import { TierNamed } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { HoldTried } from './holding'

interface Row extends TrialItem {
  id: string
  name: string
}

export function ItemTable({
  trial,
  result,
  one,
}: {
  trial: TrialOut
  result: TrialResult
  one: string
}) {
  const parts = useGame((state) => state.parts)
  const order = [...parts.item.keys()].filter((id) => result.items[id])
  const gone = Object.keys(result.items).filter((id) => !parts.item.has(id))
  const rows = [...order, ...gone].flatMap((id) => {
    const item = result.items[id]
    return item ? [{ ...item, id, name: parts.item.get(id)?.name ?? id }] : []
  })
  const agreeing = rows.filter((item) => item.z !== null && Math.abs(item.z) < 4).length
  const beyond = trial.spec.events ? `${whole(trial.spec.events)}+` : 'later'
  const wait = (
    id: 'first_50' | 'first_90' | 'first_99',
    sure: 50 | 90 | 99,
    head: string,
    shownHead: React.ReactNode,
  ) => ({
    id,
    head,
    shownHead,
    value: (row: Row) => row[id],
    cell: (row: Row) => {
      const wanted = row[id]
      if (wanted === null) return beyond
      const after = () => ({ figure: 'wait' as const, item: row.id, sure, wanted })
      return (
        <HoldTried trial={trial} wishes={{ after }}>
          {whole(wanted)}
        </HoldTried>
      )
    },
  })
  const columns: DataColumn<Row>[] = [
    {
      id: 'item',
      head: 'item',
      align: 'left',
      value: (row) => row.name,
      cell: (row) => (
        <TierNamed tier={parts.tier.get(parts.item.get(row.id)?.tier ?? '')} name={row.name} />
      ),
    },
    {
      id: 'expected',
      head: 'expected mean',
      shownHead: <Two up="expected" down="mean" />,
      value: (row) => row.expected_mean,
      cell: (row) => figures(row.expected_mean, 4),
    },
    {
      id: 'mean',
      head: 'observed mean',
      shownHead: <Two up="observed" down="mean" />,
      value: (row) => row.mean,
      cell: (row) => (
        <HoldTried
          trial={trial}
          wishes={{ onRoute: { figure: 'mean', item: row.id, wanted: row.mean } }}
        >
          {figures(row.mean, 4)}
        </HoldTried>
      ),
    },
    {
      id: 'zmark',
      head: 'z drawn',
      shownHead: '',
      aside: true,
      value: () => null,
      cell: (row) => <ZMark z={row.z} />,
    },
    {
      id: 'z',
      term: 'z',
      head: 'z against exact',
      shownHead: (
        <Two up={<span className={DOTTED}>z</span>} down={`${agreeing} of ${rows.length} agree`} />
      ),
      value: (row) => row.z,
      cell: (row) => (row.z === null ? '' : (row.z < 0 ? '−' : '+') + Math.abs(row.z).toFixed(2)),
    },
    {
      id: 'none',
      head: 'with none, %',
      shownHead: <Two up="with" down="none" />,
      value: (row) => 100 * row.none_share,
      cell: (row) => {
        const none = { figure: 'none' as const, item: row.id, wanted: row.none_share }
        return (
          <HoldTried trial={trial} wishes={{ after: (events) => ({ ...none, events }) }}>
            {percent(row.none_share, 2)}&#8239;%
          </HoldTried>
        )
      },
    },
    wait('first_50', 50, `first ${one}, half`, <Two up={`first ${one},`} down="half" />),
    wait('first_90', 90, `first ${one}, nine in ten`, <Two up="nine in" down="ten" />),
    wait('first_99', 99, `first ${one}, 99 in 100`, <Two up="99 in" down="100" />),
    {
      id: 'drought',
      term: 'drought',
      head: 'drought, 99 %',
      shownHead: <Two up={<span className={DOTTED}>drought</span>} down={'99\u202f%'} />,
      value: (row) => row.drought_99,
      cell: (row) => whole(row.drought_99),
    },
  ]
  return (
    <DataTable
      label={`items per player, ${trial.name}`}
      columns={columns}
      rows={rows}
      keyOf={(row) => row.id}
      detail={(row) => <HowMany row={row} />}
    />
  )
}

function Two({ up, down }: { up: React.ReactNode; down: React.ReactNode }) {
  return (
    <>
      {up}
      <br />
      {down}
    </>
  )
}

function HowMany({ row }: { row: Row }) {
  return (
    <>
      <Bars
        bins={row.histogram}
        expected={row.expected_mean}
        height={18}
        label={`how many ${row.name} each has`}
      />
      <p className="label flex justify-between">
        <span>{whole(row.histogram[0]?.from ?? 0)}</span>
        <span>
          how many each has: half {whole(row.p50)}, 5–95&#8239;% {whole(row.p05)} to{' '}
          {whole(row.p95)}; gold: expected
        </span>
        <span>{whole(row.histogram.at(-1)?.to ?? 0)}</span>
      </p>
    </>
  )
}

// Two trials beside one another: what changed for players, with its error, and whether it is more than noise.
import { Pending } from '@/ui/Pending'
import { useTrial, useTrialComparison, useTrials } from '@/game/queries'
import type { CompareTrials, Difference, TrialOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { FanPlot } from '@/plots/Fan'
import { figures, signed, whole } from '@/text/format'
import { TierNamed } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'

export function BesideTrial({ trial }: { trial: TrialOut }) {
  const other = trial.beside || null
  const { data: trials } = useTrials()
  const { data: before } = useTrial(other ?? 'new')
  const isDone =
    trial.status === 'done' && trials?.some((one) => one.id === other && one.status === 'done')
  const beside = useTrialComparison(trial.id, isDone ? other : null)
  const { data } = beside
  const parts = useGame((state) => state.parts)
  if (!other) return null
  if (trials && isDone && (!data || !before))
    return (
      <div className="border-b border-hair py-3">
        <Pending of={beside} what="what changed between the two" />
      </div>
    )
  if (!trials) return null
  if (!data || !before)
    return (
      <p className="border-b border-hair py-3 text-muted">Set beside the other once it is done.</p>
    )
  return (
    <section className="border-b border-hair py-3" aria-label="beside another trial">
      <p className="head">Beside {before.name}</p>
      <Changed data={data} parts={parts} />
      {trial.result && before.result && (
        <div className="max-w-[400px]">
          <FanPlot trial={trial} result={trial.result} other={before.result} />
          <p className="label">dashed: {before.name}, its 5, 50 and 95&#8239;%</p>
        </div>
      )}
      <Differences data={data} parts={parts} name={trial.name} />
    </section>
  )
}

/** What changed for players, in a sentence. */
function Changed({ data, parts }: { data: CompareTrials; parts: Parts }) {
  const player = parts.settings.words?.player ?? 'player'
  const { value } = data
  const signal = Object.values(data.items).filter((one) => !one.noise).length
  const many = Object.keys(data.items).length
  const by = value.before ? ` (${signed((100 * value.difference) / value.before, 3)}\u202f%)` : ''
  return (
    <p className="py-1 text-lead leading-6">
      {value.noise ? (
        <>
          A {player} ends with as much {parts.settings.currency} as before, as far as these
          tell:{' '}
        </>
      ) : (
        <>
          A {player} ends with <b>{value.difference > 0 ? 'more' : 'less'}</b>{' '}
          {parts.settings.currency}:{' '}
        </>
      )}
      <b className="num">{signed(value.difference)}</b>{' '}
      <span className="num text-muted">±&#8239;{figures(value.error, 2)}</span>
      {by}. Of {many} items <b className="num">{signal}</b> changed by more than noise.{' '}
      <span className="text-note text-muted">
        {data.paired
          ? `The same ${whole(data.players)} ${player}s with the same luck: without that the error would be ${figures(value.unpaired_error, 2)}, and it would take ${whole((value.unpaired_error / Math.max(value.error, 1e-12)) ** 2)} times as many.`
          : `Not the same luck: ${data.why_unpaired ?? ''}.`}
      </span>
    </p>
  )
}

interface Row extends Difference {
  id: string
  name: string
}

function Differences({ data, parts, name }: { data: CompareTrials; parts: Parts; name: string }) {
  const rows: Row[] = Object.entries(data.items)
    .map(([id, one]) => ({ ...one, id, name: parts.item.get(id)?.name ?? id }))
    .sort((a, b) => Math.abs(strength(b)) - Math.abs(strength(a)))
  const most = Math.max(...rows.map((row) => Math.abs(relative(row)) + 2 * spread(row)), 1e-9)
  const ink = (row: Row) => (row.noise ? 'text-muted' : '')
  const columns: DataColumn<Row>[] = [
    {
      id: 'item',
      head: 'item',
      align: 'left',
      value: (row) => row.name,
      cell: (row) => (
        <span className={ink(row)}>
          <TierNamed tier={parts.tier.get(parts.item.get(row.id)?.tier ?? '')} name={row.name} />
        </span>
      ),
    },
    {
      id: 'before',
      head: 'before',
      value: (row) => row.before,
      cell: (row) => figures(row.before, 4),
    },
    { id: 'after', head: 'now', value: (row) => row.after, cell: (row) => figures(row.after, 4) },
    {
      id: 'difference',
      head: 'difference',
      value: (row) => row.difference,
      cell: (row) => <span className={ink(row)}>{signed(row.difference)}</span>,
    },
    { id: 'error', head: 'error', value: (row) => row.error, cell: (row) => figures(row.error, 2) },
    {
      id: 'dot',
      head: 'of what was, with two errors',
      aside: true,
      value: () => null,
      cell: (row) => <Dot row={row} most={most} />,
    },
    {
      id: 'noise',
      head: 'is it more than noise',
      align: 'left',
      value: (row) => (row.noise ? 'noise' : 'signal'),
      cell: (row) => <span className={ink(row)}>{row.noise ? 'noise' : 'signal'}</span>,
    },
  ]
  return (
    <div className="max-h-80 overflow-auto">
      <DataTable
        label={`differences, ${name}`}
        columns={columns}
        rows={rows}
        keyOf={(row) => row.id}
      />
    </div>
  )
}

const strength = (row: Row) => (row.error > 0 ? row.difference / row.error : 0)
const relative = (row: Row) => row.difference / Math.max(row.before ?? 0, row.after ?? 0, 1e-12)
const spread = (row: Row) => row.error / Math.max(row.before ?? 0, row.after ?? 0, 1e-12)

/** A difference as a dot around zero, with a bar of two standard errors to each side. */
function Dot({ row, most }: { row: Row; most: number }) {
  const x = (value: number) => 60 + (56 * value) / most
  const [at, off] = [relative(row), 2 * spread(row)]
  const ink = row.noise ? 'var(--color-ghost)' : 'var(--color-pine)'
  return (
    <svg width="120" height="10" aria-hidden className="inline-block">
      <line x1="60" x2="60" y1="0" y2="10" stroke="var(--color-hair)" />
      <line x1={x(at - off)} x2={x(at + off)} y1="5" y2="5" stroke={ink} strokeWidth="1.4" />
      <circle cx={x(at)} cy="5" r="3" fill={ink} />
    </svg>
  )
}

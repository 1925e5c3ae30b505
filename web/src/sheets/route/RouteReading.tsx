// What a player has along a route: at the end, or after any stop.
import { Pending } from '@/ui/Pending'
import { useState } from 'react'
import { useKept, useRouteOdds } from '@/game/queries'
import type { RouteStop } from '@/api/types'
import type { Parts } from '@/game/parts'
import { setDepth, useGame } from '@/game/store'
import { figures, whole } from '@/text/format'
import { Hold } from '@/sheets/target/Hold'
import { TierNamed } from '@/ui/Marks'
import { BagDrawn } from '@/sheets/kept/BagDrawn'
import { KeptTold } from '@/sheets/kept/KeptTold'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { stopsOf } from './legs'

export function RouteReading({ id }: { id: string }) {
  return (
    <>
      <Expected id={id} />
      <Kept id={id} />
    </>
  )
}

/** What is kept, of some thousands who are played. */
function Kept({ id }: { id: string }) {
  const route = useGame((state) => state.parts.route.get(id))
  const isKept =
    route?.bag || Object.keys(route?.purse ?? {}).length || route?.legs.some((leg) => leg.sells)
  const kept = useKept(isKept ? { route: id } : null)
  const { data } = kept
  if (!route || !isKept) return null
  if (!data)
    return (
      <div className="border-t border-hair p-4 text-note">
        <Pending of={kept} what="what some thousands keep who are sent along it" />
      </div>
    )
  const depths = stopsOf(route.legs).map((stop) => stop.depth)
  return (
    <section className="border-t border-hair p-4" aria-label="what is kept">
      <p className="flex items-baseline justify-between text-small text-muted">
        <span className="head">What is kept</span>
        <span className="num">{whole(data.players)} played</span>
      </p>
      {route.bag && <BagDrawn route={id} depths={depths} />}
      <KeptTold kept={data} name={route.name} depths={depths} isNarrow />
    </section>
  )
}

function Expected({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const odds = useRouteOdds(id)
  const { data } = odds
  const [chosen, setChosen] = useState<number | null>(null)
  if (!data)
    return (
      <div className="p-4">
        <Pending of={odds} what="what it brings" />
      </div>
    )
  const player = parts.settings.words?.player ?? 'player'
  if (!data.stops.length)
    return <p className="p-4 text-muted">What a {player} comes home with will be read here.</p>
  if (data.method !== 'exact')
    return (
      <p className="p-4 text-body">
        What is expected here is not told exactly: {data.why}.{' '}
        <span className="text-muted">A trial tells it, with its errors.</span>
      </p>
    )
  const at = Math.min(chosen ?? data.stops.length - 1, data.stops.length - 1)
  const stop = data.stops[at]
  if (!stop) return null
  const atEnd = at === data.stops.length - 1
  return (
    <>
      <section className="border-b border-hair p-4" aria-label="sentence">
        <p className="flex items-baseline justify-between text-small text-muted">
          <span>
            After stop{' '}
            <select
              aria-label="after which stop"
              className="choice num bg-transparent text-ink"
              value={at}
              onChange={(event) => {
                const next = Number(event.target.value)
                setChosen(next)
                setDepth(data.stops[next]?.depth ?? 1)
              }}
            >
              {data.stops.map((one, n) => (
                <option key={n} value={n}>
                  {n + 1}, at {one.depth}
                </option>
              ))}
            </select>{' '}
            of {data.stops.length}
          </span>
          <span role="status">exact</span>
        </p>
        <p className="mt-1 text-lead leading-6">
          A {player} has{' '}
          <Hold
            route={id}
            wish={atEnd && stop.value ? { figure: 'value', wanted: stop.value.mean } : null}
          >
            {figures(stop.value?.mean, 4)}
          </Hold>{' '}
          {parts.settings.currency} on average
          <span className="num text-muted"> (sd {figures(stop.value?.sd)})</span>, after{' '}
          <b className="num">{figures(stop.events_mean)}</b> events and{' '}
          <b className="num">{figures((stop.seconds_mean ?? 0) / 60)}</b> minutes:{' '}
          <b className="num">{whole(perHour(stop))}</b> {parts.settings.currency} an hour.
        </p>
      </section>
      <section className="border-b border-hair p-4" aria-label="tiers so far">
        <Counts
          label="tiers so far"
          route={atEnd ? id : null}
          of="tier"
          rows={[...parts.tier.values()].reverse().map((tier) => ({
            id: tier.id,
            name: tier.name,
            tier: tier.id,
            ...(stop.tiers[tier.id] ?? NONE),
          }))}
          parts={parts}
        />
      </section>
      <section className="p-4" aria-label="items so far">
        <Counts
          label="items so far"
          route={atEnd ? id : null}
          of="item"
          rows={[...parts.item.values()]
            .map((item) => ({
              id: item.id,
              name: item.name,
              tier: item.tier,
              ...(stop.items[item.id] ?? NONE),
            }))
            .filter((row) => row.mean > 0)
            .sort((a, b) => b.mean - a.mean)}
          parts={parts}
        />
      </section>
    </>
  )
}

const NONE = { mean: 0, sd: 0 }

const perHour = (stop: RouteStop) =>
  stop.seconds_mean ? ((stop.value?.mean ?? 0) * 3600) / stop.seconds_mean : 0

interface Row {
  id: string
  name: string
  tier: string
  mean: number
  sd: number
}

function Counts({
  label,
  rows,
  route,
  of,
  parts,
}: {
  label: string
  rows: Row[]
  /** Whose end it is, null on the way. */
  route: string | null
  of: 'item' | 'tier'
  parts: Parts
}) {
  const columns: DataColumn<Row>[] = [
    {
      id: 'name',
      head: 'so far',
      align: 'left',
      value: (row) => row.name,
      cell: (row) => <TierNamed tier={parts.tier.get(row.tier)} name={row.name} small />,
    },
    {
      id: 'mean',
      head: 'each has',
      value: (row) => row.mean,
      cell: (row) => (
        <Hold
          isPlain
          {...(route !== null && { route })}
          wish={
            route !== null && row.mean > 0
              ? { figure: 'mean', [of]: row.id, wanted: row.mean }
              : null
          }
        >
          {figures(row.mean)}
        </Hold>
      ),
    },
    { id: 'sd', head: 'sd', term: 'sd', value: (row) => row.sd, cell: (row) => figures(row.sd) },
  ]
  return <DataTable label={label} columns={columns} rows={rows} keyOf={(row) => row.id} />
}

// What a player meets at the depth in view: events and items of one visit, and by the hour.
import { Pending } from '@/ui/Pending'
import { useState } from 'react'
import { useMeets } from '@/game/queries'
import type { EntryIn, Band, Meets } from '@/api/types'
import { freshTable } from '@/game/fresh'
import { freshId, freshName, type Parts } from '@/game/parts'
import { edit, entryOf, put } from '@/game/edit'
import { show, useGame, useGamePart, type Sheet } from '@/game/store'
import { EVENT_OF, quantityText, typedQuantity } from '@/game/words'
import { CurveChoice } from '@/sheets/CurveChoice'
import { entered, figures, percent } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { HINTS, readSpan } from '@/text/readers'
import { EditText } from '@/ui/EditText'
import { Explained } from '@/ui/Explained'
import { SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { Menu } from '@/ui/Menu'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'

export function MeetsSheet() {
  const { parts, depth } = useGamePart('parts', 'depth')
  const [points, setPoints] = useState(3)
  const meets = useMeets(points)
  const { data } = meets
  const bands = parts.settings.depth.bands ?? []
  const band = bands.find((one) => one.from <= depth && depth <= one.to)
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">
        What is met at {word} {depth}
      </h1>
      {band ? (
        <BandSentence band={band} />
      ) : (
        <p className="text-muted">No band holds this {word}. Add one on the plumb line.</p>
      )}
      {band && !band.spawns && (
        <p className="mt-3 text-muted">
          {band.name} names no spawn table yet: a table whose lines give sources.
        </p>
      )}
      {!data && <Pending of={meets} what="what is met" />}
      {data?.spawns && <Visit data={data} points={points} onPoints={setPoints} />}
    </div>
  )
}

function BandSentence({ band }: { band: Band }) {
  const { parts } = useGamePart('parts')
  const save = (label: string, changed: Partial<Band>, more: EntryIn[] = []) =>
    edit(`${label}, ${band.name}`, (game) => {
      put(game, more)
      const mine = game.settings.depth.bands?.find((one) => one.id === band.id)
      if (mine) Object.assign(mine, changed)
    })
  const table = parts.table.get(band.spawns ?? '')
  const makeSpawns = async () => {
    const name = freshName(`${band.name}, what lives there`, parts.table)
    const id = freshId(name, parts.table)
    const made = entryOf('table', freshTable(id, name))
    if (await save('new spawn table', { spawns: id }, [made]).isDone())
      show({ kind: 'table', id }, true, id)
  }
  return (
    <p className="border-b border-hair pb-2 text-body leading-7 text-muted">
      A visit to one {parts.settings.words?.depth ?? 'depth'} of{' '}
      <b className="name text-ink">{band.name}</b> rolls{' '}
      <Menu
        label="spawn table"
        trigger={
          <button type="button" className="choice text-ink">
            {table?.name ?? 'no spawn table'}
          </button>
        }
        entries={[
          { label: 'a new table', run: () => void makeSpawns() },
          { label: 'none', run: () => void save('spawns', { spawns: null }) },
          null,
          ...[...parts.table.values()].map((one) => ({
            label: one.name,
            disabled: one.id === band.spawns,
            run: () => void save('spawns', { spawns: one.id }),
          })),
        ]}
      />{' '}
      <EditText
        label="encounters a visit"
        hint={HINTS.quantity}
        text={quantityText(band.encounters)}
        className="choice num text-ink"
        onCommit={(text) =>
          save('encounters', { encounters: typedQuantity(text, band.encounters.curve) })
        }
      />
      <CurveChoice
        of="the encounters"
        owner={`encounters in ${band.name}`}
        value={band.encounters.curve}
        onChange={(curve, more) =>
          save('curve of the encounters', { encounters: { ...band.encounters, curve } }, more)
        }
      />{' '}
      times, with{' '}
      <EditText
        label="seconds in between"
        hint={HINTS.span}
        text={entered(band.between_seconds)}
        className="choice num text-ink"
        onCommit={(text) => {
          const seconds = readSpan(text)
          return typeof seconds === 'string'
            ? { message: seconds }
            : save('seconds in between', { between_seconds: seconds })
        }}
      />{' '}
      s in between.
    </p>
  )
}

function Visit({
  data,
  points,
  onPoints,
}: {
  data: Meets
  points: number
  onPoints: (points: number) => void
}) {
  const { parts } = useGamePart('parts')
  const rate = data.per_hour ?? 0
  const sources = Object.entries(data.sources ?? {}).sort((a, b) => b[1] - a[1])
  const items = Object.entries(data.items ?? {}).sort((a, b) => b[1] - a[1])
  const later = data.later ?? {}
  const worthOf = (counts: [string, number][]) =>
    counts.reduce((sum, [id, n]) => sum + n * (parts.item.get(id)?.value ?? 0), 0)
  const worth = worthOf(items)
  const isAlike = items.every(([id, n]) => Math.abs((later[id] ?? 0) - n) <= 1e-9 * n)
  return (
    <>
      <p className="py-2 text-body">
        A visit takes <b className="num">{figures(data.seconds)}</b> s,{' '}
        <b className="num">{figures(rate)}</b> an hour, and brings{' '}
        <b className="num">{figures(worth)}</b> {parts.settings.currency}:{' '}
        <b className="num">{figures(worthOf(Object.entries(later)) * rate)}</b> an hour
        {!isAlike && (
          <>
            {' '}
            in the <Explained term="long run" />, when what comes only so often has come
          </>
        )}
        .
      </p>
      <div className="grid grid-cols-2 gap-8 text-note">
        <Counts
          label="what is met"
          head="met"
          rate={rate}
          rows={sources.map(([id, count]) => {
            const source = parts.source.get(id)
            return {
              sheet: { kind: 'source' as const, id },
              mark: <SourceMark kind={source?.kind ?? 'enemy'} />,
              name: source?.name ?? id,
              note: source && EVENT_OF[source.kind].many,
              count,
            }
          })}
          foot={inAll(parts, sources).map(([events, count]) => ({
            name: `${events} in all`,
            count,
          }))}
        />
        {data.repeats && (
          <section aria-label="repeats">
            <p className="head flex items-baseline gap-1">
              With{' '}
              <EditText
                label="spawn points"
                text={String(points)}
                className="choice num text-ink"
                onCommit={(text) => {
                  const n = typedNumber(text)
                  if (n === null || !Number.isInteger(n) || n < 1 || n > 1000)
                    return { message: 'a whole number, 1 to 1000' }
                  onPoints(n)
                  return null
                }}
              />{' '}
              spawn points side by side
            </p>
            <p className="py-1">
              all the same in <b className="num">{percent(data.repeats.all_same)}&#8239;%</b>;{' '}
              <b className="num">{figures(data.repeats.distinct)}</b> different ones on average
            </p>
            {byChance(data.repeats.at_least_one).map(([id, p]) => (
              <p key={id} className="flex justify-between">
                <span>
                  at least one <span className="name">{parts.source.get(id)?.name}</span>
                </span>
                <span className="num">{percent(p)}&#8239;%</span>
              </p>
            ))}
          </section>
        )}
      </div>
      <div className="mt-5 grid grid-cols-2 gap-8 text-note">
        {inTwo(items).map((half, at) => (
          <Brought
            key={at}
            label={at ? 'what a visit brings, the rest' : 'what a visit brings'}
            items={half}
            later={later}
            rate={rate}
          />
        ))}
      </div>
      <button
        type="button"
        className="label mt-3 flex items-center gap-1.5 underline decoration-hair underline-offset-2"
        onClick={() => show({ kind: 'table', id: data.spawns ?? '' })}
      >
        <TableMark /> edit {parts.table.get(data.spawns ?? '')?.name}
      </button>
    </>
  )
}

function Brought({
  label,
  items,
  later,
  rate,
}: {
  label: string
  items: [string, number][]
  later: Record<string, number>
  rate: number
}) {
  const parts = useGame((state) => state.parts)
  return (
    <Counts
      label={label}
      head="item"
      rate={rate}
      rows={items.map(([id, count]) => {
        const item = parts.item.get(id)
        return {
          sheet: { kind: 'item' as const, id },
          mark: <TierMark tier={parts.tier.get(item?.tier ?? '')} />,
          name: item?.name ?? id,
          count,
          later: later[id] ?? null,
        }
      })}
    />
  )
}

/** Something of which a visit, and an hour, has so many; it leads to its sheet. */
interface Counted {
  sheet?: NonNullable<Sheet>
  mark?: React.ReactNode
  name: string
  note?: string | undefined
  count: number
  /** In the long run, where that is another number; null: not told. */
  later?: number | null
}

function Counts({
  label,
  head,
  rate,
  rows,
  foot = [],
}: {
  label: string
  head: string
  rate: number
  rows: Counted[]
  foot?: Counted[]
}) {
  const columns: DataColumn<Counted>[] = [
    {
      id: 'name',
      head,
      align: 'left',
      value: (row) => row.name,
      cell: (row) => (
        <span className="flex items-center gap-2">
          {row.mark}
          <span className={row.sheet ? 'name text-item' : ''}>{row.name}</span>
          {row.note && <span className="label">{row.note}</span>}
        </span>
      ),
    },
    { id: 'visit', head: 'a visit', value: (row) => row.count, cell: (row) => figures(row.count) },
    {
      id: 'hour',
      head: 'an hour',
      value: (row) => (row.later === null ? null : (row.later ?? row.count) * rate),
      cell: (row) => (row.later === null ? 'not told' : figures((row.later ?? row.count) * rate)),
    },
  ]
  return (
    <DataTable
      label={label}
      columns={columns}
      rows={rows}
      foot={foot}
      keyOf={(row) => row.sheet?.id ?? row.name}
      onOpen={(row) => row.sheet && show(row.sheet)}
    />
  )
}

function byChance(chances: Record<string, number>): [string, number][] {
  return Object.entries(chances).sort((a, b) => b[1] - a[1])
}

/** A long list as two columns, read down the first and then the second. */
function inTwo<T>(list: T[]): T[][] {
  const half = Math.ceil(list.length / 2)
  return [list.slice(0, half), list.slice(half)].filter((part) => part.length)
}

/** Kills, openings, harvests: each kind of event over all sources that have it. */
function inAll(parts: Parts, sources: [string, number][]): [string, number][] {
  const found = new Map<string, number>()
  for (const [id, count] of sources) {
    const events = EVENT_OF[parts.source.get(id)?.kind ?? 'enemy'].many
    found.set(events, (found.get(events) ?? 0) + count)
  }
  return [...found].sort((a, b) => b[1] - a[1])
}

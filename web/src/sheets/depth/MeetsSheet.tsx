// What a player meets at the depth in view: events and items of one visit, and by the hour.
import { useState } from 'react'
import { useMeets } from '@/api/queries'
import type { EntryIn, Band, Meets } from '@/api/types'
import type { Parts } from '@/game/parts'
import { bandsEntry } from '@/game/settings'
import { commit } from '@/game/sync'
import { show, useGame, useGamePart, type Sheet } from '@/game/store'
import { EVENT_OF, quantityText, typedQuantity } from '@/game/words'
import { CurveChoice } from '@/sheets/CurveChoice'
import { entered, figures, percent } from '@/ui/format'
import { typedNumber } from '@/ui/numbers'
import { EditText } from '@/ui/EditText'
import { SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { Menu } from '@/ui/Menu'

export function MeetsSheet() {
  const { parts, depth } = useGamePart('parts', 'depth')
  const [points, setPoints] = useState(3)
  const { data } = useMeets(points)
  const bands = parts.settings.depth.bands ?? []
  const band = bands.find((one) => one.from <= depth && depth <= one.to)
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-[32px] leading-10">
        What is met at {word} {depth}
      </h1>
      {band ? (
        <BandSentence band={band} bands={bands} />
      ) : (
        <p className="text-muted">No band holds this {word}. Add one on the plumb line.</p>
      )}
      {band && !band.spawns && (
        <p className="mt-3 text-muted">
          {band.name} names no spawn table yet: a table whose lines give sources.
        </p>
      )}
      {data?.spawns && <Visit data={data} points={points} onPoints={setPoints} />}
    </div>
  )
}

function BandSentence({ band, bands }: { band: Band; bands: Band[] }) {
  const { parts } = useGamePart('parts')
  const save = (label: string, changed: Partial<Band>, more: EntryIn[] = []) =>
    commit(`${label}, ${band.name}`, [
      ...more,
      bandsEntry(bands.map((one) => (one.id === band.id ? { ...one, ...changed } : one))),
    ])
  const table = parts.table.get(band.spawns ?? '')
  return (
    <p className="border-b border-hair pb-2 text-[13px] leading-7 text-muted">
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
        text={entered(band.between_seconds)}
        className="choice num text-ink"
        onCommit={(text) => {
          const seconds = typedNumber(text)
          return seconds === null
            ? { message: 'seconds are a number' }
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
  const worth = items.reduce((sum, [id, n]) => sum + n * (parts.item.get(id)?.value ?? 0), 0)
  return (
    <>
      <p className="py-2 text-[13px]">
        A visit takes <b className="num">{figures(data.seconds)}</b> s,{' '}
        <b className="num">{figures(rate)}</b> an hour, and brings{' '}
        <b className="num">{figures(worth)}</b> {parts.settings.currency}:{' '}
        <b className="num">{figures(worth * rate)}</b> an hour.
      </p>
      <div className="grid grid-cols-2 gap-8 text-[12.5px]">
        <Table label="what is met" head={['met', 'a visit', 'an hour']}>
          {sources.map(([id, count]) => {
            const source = parts.source.get(id)
            return (
              <Counted
                key={id}
                sheet={{ kind: 'source', id }}
                mark={<SourceMark kind={source?.kind ?? 'enemy'} />}
                name={source?.name}
                note={source && EVENT_OF[source.kind].many}
                {...{ count, rate }}
              />
            )
          })}
          {inAll(parts, sources).map(([events, count]) => (
            <tr key={events} className="text-muted">
              <td className="py-0.5">{events} in all</td>
              <td className="num text-right text-ink">{figures(count)}</td>
              <td className="num text-right text-ink">{figures(count * rate)}</td>
            </tr>
          ))}
        </Table>
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
      <div className="mt-5 grid grid-cols-2 gap-8 text-[12.5px]">
        {inTwo(items).map((half, at) => (
          <Brought
            key={at}
            label={at ? 'what a visit brings, the rest' : 'what a visit brings'}
            items={half}
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
  rate,
}: {
  label: string
  items: [string, number][]
  rate: number
}) {
  const parts = useGame((state) => state.parts)
  return (
    <Table label={label} head={['item', 'a visit', 'an hour']}>
      {items.map(([id, count]) => {
        const item = parts.item.get(id)
        return (
          <Counted
            key={id}
            sheet={{ kind: 'item', id }}
            mark={<TierMark tier={parts.tier.get(item?.tier ?? '')} />}
            name={item?.name}
            {...{ count, rate }}
          />
        )
      })}
    </Table>
  )
}

/** Something of which a visit, and an hour, has so many; its name leads to it. */
function Counted({
  sheet,
  mark,
  name,
  note,
  count,
  rate,
}: {
  sheet: NonNullable<Sheet>
  mark: React.ReactNode
  name: string | undefined
  note?: string | undefined
  count: number
  rate: number
}) {
  return (
    <tr className="border-b border-hair/60">
      <td className="py-0.5">
        <button
          type="button"
          className="flex items-center gap-2 hover:bg-gold-wash"
          onClick={() => show(sheet)}
        >
          {mark}
          <span className="name text-[13.5px]">{name}</span>
          {note && <span className="label">{note}</span>}
        </button>
      </td>
      <td className="num text-right">{figures(count)}</td>
      <td className="num text-right">{figures(count * rate)}</td>
    </tr>
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

function Table({
  label,
  head,
  children,
}: {
  label: string
  head: string[]
  children: React.ReactNode
}) {
  return (
    <table aria-label={label} className="w-full self-start">
      <thead>
        <tr className="label">
          {head.map((word, at) => (
            <th key={word} className={`font-normal ${at ? 'text-right' : 'text-left'}`}>
              {word}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>{children}</tbody>
    </table>
  )
}

// A place: its plan, what may lie where, how many of each, and what is there for whoever comes back.
import { useState } from 'react'
import { usePlace } from '@/api/queries'
import type { Place, PlaceOut } from '@/api/types'
import { FlagBar } from '@/app/FlagBar'
import type { Parts } from '@/game/parts'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { lineName } from '@/game/words'
import { Findings } from '@/sheets/Findings'
import { Hold } from '@/sheets/target/Hold'
import { Title } from '@/sheets/Title'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent, typedRange } from '@/ui/format'
import { TierNamed } from '@/ui/Marks'
import { Notes } from '@/ui/Notes'
import { readChance, typedNumber } from '@/ui/numbers'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { Covers } from './Covers'
import { cell, cellsOf, resized, rowsOf, savePlace, toggledSpots, withCover } from './edits'
import { Plan, type Tool } from './Plan'
import { SpotFacts } from './SpotFacts'

export function PlaceSheet({ id }: { id: string }) {
  const { parts } = useGamePart('parts')
  const [every, setEvery] = useState(600)
  const [seed, setSeed] = useState<number | null>(null)
  const [tool, setTool] = useState<Tool>({ kind: 'spots' })
  const [line, setLine] = useState<string | null>(null)
  const [chosen, setChosen] = useState<string | null>(null)
  const { data, error } = usePlace(id, every, seed)
  const place = parts.place.get(id)
  if (!place) return <p className="p-6 text-muted">This place is gone.</p>
  const stock = parts.table.get(place.stock)
  const named = (of: string) => {
    const found = stock?.lines.find((one) => one.id === of)
    return found ? lineName(parts, found) : of
  }
  const paint = (cells: [number, number][], on: boolean) => {
    if (tool.kind === 'spots') {
      void savePlace(on ? 'spots' : 'spots taken out', toggledSpots(place, cells, on))
      return
    }
    const cover = place.covers.find((one) => one.id === tool.id)
    if (!cover) return
    const next = cellsOf(cover)
    for (const [x, y] of cells) {
      if (on) next.add(cell(x, y))
      else next.delete(cell(x, y))
    }
    void savePlace('painted', withCover(place, cover.id, { rows: rowsOf(place.size, next) }))
  }
  return (
    <div
      className="px-5 pb-10 pt-3"
      onKeyDown={(event) => {
        if (event.key !== 'r' || (event.target as HTMLElement).closest('input, textarea, select'))
          return
        setSeed((now) => (now ?? 0) + 1)
        event.stopPropagation()
      }}
    >
      <header className="border-b border-hair pb-2">
        <Title
          of="place"
          id={id}
          name={place.name}
          onRename={(name) => savePlace('renamed', { ...place, name })}
        />
        <Sentence place={place} />
        <div className="flex items-baseline gap-4 text-note text-muted">
          <FlagBar />
          <Where place={place} />
        </div>
      </header>
      <Findings kind="place" id={id} />
      {error && <p className="text-bad">{error.message}</p>}
      <div className="flex flex-wrap gap-6 pt-3">
        <div>
          <Covers place={place} tool={tool} onTool={setTool} />
          <Plan
            {...{ place, parts, tool, line, chosen }}
            told={data}
            colourOf={(of) => tierColour(parts, place, of)}
            nameOf={named}
            onPaint={paint}
            onChoose={setChosen}
          />
          <p className="flex items-baseline gap-3 text-note">
            <button
              type="button"
              className="plain-button"
              onClick={() => setSeed((now) => (now ?? 0) + 1)}
            >
              {seed === null ? 'set out once' : 'set out again'} <span className="num">R</span>
            </button>
            {seed !== null && (
              <button type="button" className="label hover:text-ink" onClick={() => setSeed(null)}>
                show the chances
              </button>
            )}
            <span className="label">
              {data && (data.method === 'exact' ? 'exact' : `${data.runs ?? ''} settings-out`)}
            </span>
          </p>
          <SpotFacts place={place} spot={chosen} onGone={() => setChosen(null)} />
        </div>
        <div className="min-w-[300px] flex-1">
          <LinesTold {...{ place, data, line }} nameOf={named} onLine={setLine} />
          <Back place={place} data={data} every={every} onEvery={setEvery} />
          <ItemsTold parts={parts} data={data} name={place.name} id={place.id} />
        </div>
      </div>
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the place"
          text={place.notes}
          onCommit={(notes) => savePlace('notes', { ...place, notes })}
        />
      </div>
    </div>
  )
}

/** The depth in view may be one where the place is not. */
function Where({ place }: { place: Place }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  if (!place.depths || (place.depths[0] <= depth && depth <= place.depths[1])) return null
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <button type="button" className="text-waiting" onClick={() => setDepth(place.depths?.[0] ?? 1)}>
      as it would be at {word} {depth}, where it is not; go to {place.depths[0]}
    </button>
  )
}

/** The colour of what a line gives first. */
function tierColour(parts: Parts, place: Place, line: string): string {
  const found = parts.table.get(place.stock)?.lines.find((one) => one.id === line)
  const given = found?.yields[0]
  const tier = given?.item
    ? parts.item.get(given.item)?.tier
    : given?.pool?.tiers.length === 1
      ? given.pool.tiers[0]
      : undefined
  return parts.tier.get(tier ?? '')?.colour ?? '#12312c'
}

function Sentence({ place }: { place: Place }) {
  const parts = useGame((state) => state.parts)
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  const stocks = [...parts.table.values()].filter((table) => table.rule === 'pick')
  const filled = place.filled
  const isCount = typeof filled !== 'number'
  return (
    <p className="text-body leading-7 text-muted">
      At {word}s{' '}
      <EditText
        label={`${word}s of the place`}
        text={place.depths ? place.depths.join('-') : 'all'}
        onCommit={(text) => {
          const range = typedRange(text, [from, to])
          return typeof range === 'string'
            ? { message: range }
            : savePlace('depths', { ...place, depths: range })
        }}
      />
      , a plan of{' '}
      <EditText
        label="size of the plan"
        text={place.size.join(' × ')}
        onCommit={(text) => {
          const found = /^\s*(\d+)\s*[x×*]\s*(\d+)\s*$/i.exec(text)
          return found
            ? savePlace('size', resized(place, [Number(found[1]), Number(found[2])]))
            : { message: 'a plan is written 24 × 16' }
        }}
      />{' '}
      cells;{' '}
      <Choice
        label="how it is set out"
        value={place.way}
        options={{
          'shared-out': 'numbers are shared out, rarest first,',
          'each-rolls': 'every spot rolls by itself,',
        }}
        onChange={(way) =>
          void savePlace('how it is set out', {
            ...place,
            way: way as Place['way'],
            ...(way === 'each-rolls' && { least: [], filled: isCount ? 0.6 : filled }),
          })
        }
      />{' '}
      so that{' '}
      <EditText
        label="how many spots are filled"
        text={isCount ? String(filled.count) : `${entered(100 * filled)} %`}
        onCommit={(text) => {
          const count = /^\s*\d+\s*$/.test(text) ? Number(text) : null
          if (count !== null && place.way === 'shared-out')
            return savePlace('filled', { ...place, filled: { count } })
          const share = readChance(text)
          return typeof share === 'string'
            ? { message: share }
            : savePlace('filled', { ...place, filled: share })
        }}
      />{' '}
      of <span className="num text-ink">{place.spots.length}</span> spots are filled from{' '}
      <Choice
        label="stock"
        value={place.stock}
        options={Object.fromEntries(stocks.map((table) => [table.id, table.name]))}
        onChange={(stock) => void savePlace('stock', { ...place, stock, least: [] })}
      />{' '}
      <button
        type="button"
        className="label hover:text-ink"
        onClick={() => show({ kind: 'table', id: place.stock })}
      >
        open it
      </button>
    </p>
  )
}

interface LinesProps {
  place: Place
  data: PlaceOut | undefined
  line: string | null
  nameOf: (line: string) => string
  onLine: (line: string | null) => void
}

function LinesTold({ place, data, line, nameOf, onLine }: LinesProps) {
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
                    return savePlace('at least', { ...place, least: [...others, ...own] })
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

function Back({
  place,
  data,
  every,
  onEvery,
}: {
  place: Place
  data: PlaceOut | undefined
  every: number
  onEvery: (every: number) => void
}) {
  const parts = useGame((state) => state.parts)
  const player = parts.settings.words?.player ?? 'player'
  const whole = (text: string) => {
    const value = typedNumber(text)
    return value !== null && Number.isInteger(value) && value >= 1 ? value : null
  }
  const time = (key: 'refill_seconds' | 'lasts_seconds', never: string) => (
    <EditText
      label={key === 'refill_seconds' ? 'seconds between refills' : 'seconds that it lasts'}
      text={place[key] ? String(place[key]) : never}
      onCommit={(text) => {
        if (text.trim() === never || text.trim() === '')
          return savePlace('coming back', { ...place, [key]: null })
        const seconds = whole(text)
        return seconds === null
          ? { message: `whole seconds, or ${never}` }
          : savePlace('coming back', { ...place, [key]: seconds })
      }}
    />
  )
  const worth = Object.entries(data?.visit?.per_hour ?? {}).reduce(
    (sum, [item, many]) => sum + many * (parts.item.get(item)?.value ?? 0),
    0,
  )
  return (
    <p className="border-y border-hair py-2 text-body leading-7 text-muted">
      An empty spot tries again every {time('refill_seconds', 'never')}
      {place.refill_seconds ? ' s' : ''}
      {place.refill_seconds && (
        <>
          ; what came lies {time('lasts_seconds', 'for good')}
          {place.lasts_seconds ? ' s' : ''}. A {player} who comes every{' '}
          <EditText
            label="seconds between visits"
            text={String(every)}
            onCommit={(text) => {
              const seconds = whole(text)
              if (seconds === null) return { message: 'whole seconds from 1' }
              onEvery(seconds)
              return null
            }}
          />{' '}
          s and takes all gets <b className="num text-ink">{figures(worth)}</b>{' '}
          {parts.settings.currency} an hour
          {data?.visit && data.visit.unseen_share > 0 && (
            <>
              , and never sees{' '}
              <b className="num text-ink">{percent(data.visit.unseen_share)}&#8239;%</b> of what
              came
            </>
          )}
        </>
      )}
      .
    </p>
  )
}

function ItemsTold({
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
    {
      id: 'item',
      head: 'in the place',
      align: 'left',
      value: (row) => row.item?.name ?? row.id,
      cell: (row) => (
        <TierNamed
          tier={parts.tier.get(row.item?.tier ?? '')}
          name={row.item?.name ?? row.id}
          small
        />
      ),
    },
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

// A stall: what is on sale in each period, goods in fixed columns so that one sees where one is missing; how long it is
// missed, and whether whoever looks now and then sees it.
import { useMemo, useState } from 'react'
import { useStall } from '@/api/queries'
import type { Stall, StallOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { lineName } from '@/game/words'
import { Findings } from '@/sheets/Findings'
import { Title } from '@/sheets/Title'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent, typedDepth } from '@/ui/format'
import { Notes } from '@/ui/Notes'
import { typedNumber } from '@/ui/numbers'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { saveStall } from './edits'

const SHOWN = 42

export function StallSheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const stall = parts.stall.get(id)
  const [moment, setMoment] = useState<string | null>(null)
  const [look, setLook] = useState({ every: 1, times: 7 })
  const now = useMemo(() => new Date().toISOString().slice(0, 19) + 'Z', [])
  const { data, error } = useStall({
    stall: id,
    at: moment ?? now,
    count: SHOWN,
    look_every: look.every,
    looks: look.times,
  })
  if (!stall) return <p className="p-6 text-muted">This stall is gone.</p>
  return (
    <div className="px-5 pb-10 pt-3">
      <header className="border-b border-hair pb-2">
        <Title
          of="stall"
          id={id}
          name={stall.name}
          onRename={(name) => saveStall('renamed', { ...stall, name })}
        />
        <Sentence stall={stall} parts={parts} />
      </header>
      <Findings kind="stall" id={id} />
      {error && <p className="text-bad">{error.message}</p>}
      <div className="flex flex-wrap gap-8 pt-3">
        <Calendar
          stall={stall}
          parts={parts}
          data={data}
          today={now}
          moment={moment}
          onMoment={setMoment}
        />
        <Goods stall={stall} parts={parts} data={data} look={look} onLook={setLook} />
      </div>
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the stall"
          text={stall.notes}
          onCommit={(notes) => saveStall('notes', { ...stall, notes })}
        />
      </div>
    </div>
  )
}

function Sentence({ stall, parts }: { stall: Stall; parts: Parts }) {
  const { from, to } = parts.settings.depth
  const stocks = [...parts.table.values()].filter((table) => table.rule === 'pick')
  const whole = (label: string, key: 'slots' | 'seed', least: number) => (
    <EditText
      label={label}
      text={String(stall[key])}
      inputClass="num w-28"
      onCommit={(text) => {
        const value = typedNumber(text)
        return value === null || !Number.isInteger(value) || value < least
          ? { message: `a whole number from ${least}` }
          : saveStall(label, { ...stall, [key]: value })
      }}
    />
  )
  return (
    <p className="text-body leading-7 text-muted">
      <Choice
        label="how goods come"
        value={stall.way}
        options={{ draw: 'Draws', deal: 'Deals in rounds' }}
        onChange={(way) =>
          void saveStall('how goods come', {
            ...stall,
            way: way as Stall['way'],
            ...(way === 'deal' && { fixed: [] }),
          })
        }
      />{' '}
      {whole('slots', 'slots', 1)} goods of{' '}
      <Choice
        label="stock"
        value={stall.stock}
        options={Object.fromEntries(stocks.map((table) => [table.id, table.name]))}
        onChange={(stock) => void saveStall('stock', { ...stall, stock })}
      />{' '}
      <button
        type="button"
        className="label hover:text-ink"
        onClick={() => show({ kind: 'table', id: stall.stock })}
      >
        open it
      </button>{' '}
      at {parts.settings.words?.depth ?? 'depth'}{' '}
      <EditText
        label="depth of the stall"
        text={String(stall.depth)}
        inputClass="num w-12"
        onCommit={(text) => {
          const depth = typedDepth(text, [from, to])
          return typeof depth === 'string'
            ? { message: depth }
            : saveStall('depth', { ...stall, depth })
        }}
      />
      , new every{' '}
      <EditText
        label="period"
        text={spanText(stall.period_seconds)}
        inputClass="num w-28"
        onCommit={(text) => {
          const seconds = typedSpan(text)
          return seconds === null
            ? { message: 'a period is written 1 day, 6 hours, 30 min or 90 s' }
            : saveStall('period', { ...stall, period_seconds: seconds })
        }}
      />
      , for{' '}
      <EditText
        label="price factor"
        text={entered(stall.price_factor)}
        inputClass="num w-16"
        onCommit={(text) => {
          const factor = typedNumber(text)
          return factor === null || factor < 0
            ? { message: 'a number from 0' }
            : saveStall('price factor', { ...stall, price_factor: factor })
        }}
      />{' '}
      times what they are worth; seed {whole('seed', 'seed', 0)}.
      <Fixed stall={stall} parts={parts} />
    </p>
  )
}

/** Slots that are filled first, from one tier. */
function Fixed({ stall, parts }: { stall: Stall; parts: Parts }) {
  if (stall.way === 'deal') return null
  const free = Array.from({ length: stall.slots }, (_, at) => at + 1).find(
    (slot) => !stall.fixed.some((one) => one.slot === slot),
  )
  const tiers = Object.fromEntries([...parts.tier.values()].map((tier) => [tier.id, tier.name]))
  const save = (fixed: Stall['fixed']) => void saveStall('fixed slots', { ...stall, fixed })
  return (
    <>
      {stall.fixed.map((one, at) => (
        <span key={one.slot}>
          {' '}
          Slot <span className="num text-ink">{one.slot}</span> is{' '}
          {one.tag ? (
            <span className="text-ink">“{one.tag}”</span>
          ) : (
            <Choice
              label={`tier of slot ${one.slot}`}
              value={one.tier ?? ''}
              options={tiers}
              onChange={(tier) =>
                save(stall.fixed.map((other, n) => (n === at ? { ...other, tier } : other)))
              }
            />
          )}
          <button
            type="button"
            aria-label={`slot ${one.slot} is any`}
            className="px-0.5 text-muted hover:text-bad"
            onClick={() => save(stall.fixed.filter((_, n) => n !== at))}
          >
            ×
          </button>
        </span>
      ))}
      {free !== undefined && (
        <button
          type="button"
          className="label ml-2 hover:text-ink"
          onClick={() =>
            save([
              ...stall.fixed,
              { slot: free, tier: parts.tier.keys().next().value ?? null, tag: null },
            ])
          }
        >
          + a fixed slot
        </button>
      )}
    </>
  )
}

const SPANS: [number, string, RegExp][] = [
  [86_400, 'day', /^d(ays?)?$/],
  [3_600, 'hour', /^h(ours?)?$/],
  [60, 'min', /^m(in(utes?)?)?$/],
  [1, 's', /^s(ec(onds?)?)?$/],
]

function spanText(seconds: number): string {
  const [by, word] = SPANS.find(([one]) => seconds % one === 0) ?? [1, 's', /s/]
  const many = seconds / by
  return `${many} ${word}${many !== 1 && by >= 3600 ? 's' : ''}`
}

function typedSpan(text: string): number | null {
  const found = /^\s*([\d.]+)\s*([a-z]*)\s*$/i.exec(text)
  if (!found) return null
  const word = (found[2] ?? '').toLowerCase()
  const by = word === '' ? 1 : SPANS.find(([, , reads]) => reads.test(word))?.[0]
  const seconds = Number(found[1]) * (by ?? NaN)
  return Number.isInteger(seconds) && seconds >= 1 ? seconds : null
}

const goodName = (parts: Parts, stall: Stall, line: string) => {
  const found = parts.table.get(stall.stock)?.lines.find((one) => one.id === line)
  return found ? lineName(parts, found) : line
}

function colourOf(parts: Parts, stall: Stall, line: string): string {
  const given = parts.table.get(stall.stock)?.lines.find((one) => one.id === line)?.yields[0]
  const tier = given?.item ? parts.item.get(given.item)?.tier : given?.pool?.tiers[0]
  return parts.tier.get(tier ?? '')?.colour ?? '#12312c'
}

interface CalendarProps {
  stall: Stall
  parts: Parts
  data: StallOut | undefined
  today: string
  moment: string | null
  onMoment: (moment: string | null) => void
}

const ROW = 13
const COLUMN = 17

function Calendar({ stall, parts, data, today, moment, onMoment }: CalendarProps) {
  const [over, setOver] = useState<number | null>(null)
  const goods = Object.keys(data?.shares ?? {})
  const periods = data?.periods ?? []
  const step = (by: number) => {
    const first = periods[0]
    if (!first) return
    const at = Date.parse(first.from) + by * stall.period_seconds * 1000
    onMoment(new Date(at).toISOString().slice(0, 19) + 'Z')
  }
  const isNow = (one: { from: string; to: string }) =>
    Date.parse(one.from) <= Date.parse(today) && Date.parse(today) < Date.parse(one.to)
  const shown = over === null ? undefined : periods[over]
  return (
    <section aria-label="calendar">
      <p className="flex items-baseline gap-2 text-note">
        <span className="head">On sale</span>
        <button type="button" className="plain-button" onClick={() => step(-SHOWN + 2)}>
          earlier
        </button>
        <button type="button" className="plain-button" onClick={() => step(SHOWN - 2)}>
          later
        </button>
        {moment !== null && (
          <button type="button" className="label hover:text-ink" onClick={() => onMoment(null)}>
            today
          </button>
        )}
        <EditText
          label="from when on"
          text={(moment ?? today).slice(0, 10)}
          className="choice num ml-2"
          inputClass="num w-28"
          onCommit={(text) => {
            const at = Date.parse(text.trim())
            if (Number.isNaN(at)) return { message: 'a day is written 2031-04-01' }
            onMoment(new Date(at).toISOString().slice(0, 19) + 'Z')
            return null
          }}
        />
      </p>
      <svg
        role="img"
        aria-label={`What is on sale in ${periods.length} periods`}
        width={96 + goods.length * COLUMN}
        height={periods.length * ROW + 22}
        className="mt-1 block"
        onPointerLeave={() => setOver(null)}
        onPointerMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect()
          const row = Math.floor((event.clientY - box.top - 19) / ROW)
          setOver(row >= 0 && row < periods.length ? row : null)
        }}
      >
        {goods.map((good, at) => (
          <text
            key={good}
            x={92 + at * COLUMN + (COLUMN - 3) / 2}
            y="12"
            textAnchor="middle"
            className="num"
            fontSize="9.5"
            fill="var(--color-muted)"
          >
            {at + 1}
          </text>
        ))}
        {periods.map((one, row) => (
          <g key={one.k} transform={`translate(0,${row * ROW + 19})`}>
            {(isNow(one) || row === over) && (
              <rect
                x="0"
                width={96 + goods.length * COLUMN}
                height={ROW}
                fill={isNow(one) ? 'var(--color-gold)' : 'var(--color-gold-wash)'}
                opacity={isNow(one) ? 0.35 : 1}
              />
            )}
            <text x="2" y={ROW - 3} className="num" fontSize="9.5" fill="var(--color-muted)">
              {dateText(one.from, stall.period_seconds)}
            </text>
            {goods.map((good, at) =>
              one.goods.includes(good) ? (
                <rect
                  key={good}
                  x={92 + at * COLUMN}
                  y="1"
                  width={COLUMN - 3}
                  height={ROW - 2}
                  rx="2"
                  fill={colourOf(parts, stall, good)}
                />
              ) : null,
            )}
          </g>
        ))}
      </svg>
      <p className="min-h-5 max-w-[420px] text-note text-muted">
        {shown &&
          `${shown.from.replace('T', ' ').replace('Z', '')} UTC: ${shown.goods.map((good) => goodName(parts, stall, good)).join(', ') || 'nothing yet'}`}
      </p>
    </section>
  )
}

const dateText = (iso: string, period: number) =>
  period % 86_400 === 0 ? iso.slice(0, 10) : `${iso.slice(5, 10)} ${iso.slice(11, 16)}`

interface GoodsProps {
  stall: Stall
  parts: Parts
  data: StallOut | undefined
  look: { every: number; times: number }
  onLook: (look: { every: number; times: number }) => void
}

function Goods({ stall, parts, data, look, onLook }: GoodsProps) {
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
      cell: (row) => percent(row.share),
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

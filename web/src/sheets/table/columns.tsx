// The columns of a table's lines: what was entered, and the answers, which can be typed into too.
import { api } from '@/api/client'
import { useState } from 'react'
import type { Finding, Held, Line, SheetOdds, Table, TableOdds } from '@/api/types'
import { OpenBar } from '@/plots/OpenBar'
import { commit } from '@/game/sync'
import { useGame, type Failure } from '@/game/store'
import type { Parts } from '@/game/parts'
import { lineName, lineTier, quantityText, quantityWords, yieldByName } from '@/game/words'
import { entered, figures, percent, short, typedChance, typedNumber } from '@/ui/format'
import { SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { Pop } from '@/ui/Menu'
import type { Column, Suggestion } from '@/ui/grid/columns'
import { LimitsCell, limitsText } from './LimitsCell'
import {
  entry,
  isPinned,
  tableEntry,
  withEntry,
  withLines,
  withQuantity,
  withYield,
  withYields,
} from './lines'
import { YieldsForm } from './YieldsForm'

interface Context {
  parts: Parts
  table: Table
  odds: TableOdds | undefined
  sheet: SheetOdds | undefined
  words: { one: string; many: string }
  depth: number
  longRun: boolean
  findings: Finding[]
  held: Held[]
}

/** Which cell a finding's field is. */
const CELL_OF: Record<string, string> = {
  entry: 'entry',
  quantity: 'quantity',
  gives: 'gives',
  limits: 'limits',
  depths: 'open',
}

export function lineColumns(context: Context): Column<Line>[] {
  const odd = (key: string) => (line: Line) =>
    context.findings.find((one) => one.line === line.id && CELL_OF[one.field ?? ''] === key)
      ?.message
  return allColumns(context).map((column) => ({ ...column, odd: odd(column.key) }))
}

function allColumns(context: Context): Column<Line>[] {
  const { table, odds, words, longRun } = context
  const of = (line: Line) => odds?.lines[line.id]
  const scaled = Object.values(odds?.lines ?? {}).some((line) => line.multiplier !== 1)
  return [
    givesColumn(context),
    quantityColumn(context),
    ...entryColumns(table),
    ...(scaled ? [multiplierColumn(of)] : []),
    answer(context, {
      key: 'chance',
      head: ['chance', 'a roll, %'],
      label: 'chance a roll',
      width: '62px',
      value: (line) => percent(of(line)?.chance),
      unit: '%',
      read: typedChance,
      hint: 'a chance is written 2 %, 0.02 or 1 in 50',
    }),
    answer(context, {
      key: 'one_in',
      head: [words.many, 'for one'],
      label: `${words.many} for one`,
      width: '56px',
      value: (line) => figures((longRun ? of(line)?.long_run_one_in : of(line)?.one_in) ?? null),
      later: longRun,
      read: (text) => {
        const bare = typedNumber(text)
        if (bare !== null) return bare
        const chance = typedChance(text)
        return chance ? 1 / chance : null
      },
      hint: 'one in how many: write 250, 1 in 250 or 0.4 %',
    }),
    answer(context, {
      key: 'per_100',
      head: ['per 100', words.many],
      label: `per 100 ${words.many}`,
      width: '56px',
      value: (line) => figures(longRun ? of(line)?.long_run_100 : of(line)?.per_100),
      later: longRun,
      read: typedNumber,
      hint: 'how many in 100: write a number',
    }),
    openColumn(context),
    limitsColumn(context),
    {
      key: 'share',
      head: (
        <>
          share of
          <br />
          swing, %
        </>
      ),
      label: 'share of swing',
      width: '60px',
      align: 'right',
      text: (line) => `${sharePercent(of(line)?.share ?? 0)} %`,
      show: (line) => <AnswerCell text={sharePercent(of(line)?.share ?? 0)} />,
    },
  ]
}

function givesColumn({ parts, table }: Context): Column<Line> {
  return {
    key: 'gives',
    head: 'gives',
    label: 'gives',
    width: 'minmax(110px,1fr)',
    text: (line) => lineName(parts, line),
    show: (line) => (
      <span className="flex w-full min-w-0 items-center gap-2">
        <LineMark parts={parts} line={line} />
        <span
          className={`name truncate text-[13.5px] ${line.yields.length ? '' : 'text-muted italic'}`}
        >
          {lineName(parts, line)}
        </span>
        <GivesButton parts={parts} table={table} line={line} />
      </span>
    ),
    enter: (line, text) => {
      const given = yieldByName(parts, text)
      if (given === undefined) return `there is no item, table or source called “${text}”`
      return withYield(line, given)
    },
    suggest: (text) => suggestions(parts, table, text),
  }
}

/** Opens everything the line gives: several things, any of a kind, sources. */
function GivesButton({ parts, table, line }: { parts: Parts; table: Table; line: Line }) {
  const [open, setOpen] = useState(false)
  const name = lineName(parts, line)
  return (
    <span
      className="absolute inset-y-0 right-0 flex items-center"
      onMouseDown={(event) => event.stopPropagation()}
    >
      <Pop
        label={`all that ${name} gives`}
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button
            type="button"
            aria-label={`all that ${name} gives`}
            className="bg-raised px-1.5 text-muted opacity-0 hover:text-ink focus-visible:opacity-100 group-hover:opacity-100 data-[state=open]:opacity-100"
          >
            +
          </button>
        }
      >
        <YieldsForm
          line={line}
          onDone={() => setOpen(false)}
          onSave={(yields) => {
            const lines = table.lines.map((one) =>
              one.id === line.id ? withYields(one, yields) : one,
            )
            return commit(`what a line of ${table.name} gives`, [
              tableEntry(withLines(table, lines)),
            ])
          }}
        />
      </Pop>
    </span>
  )
}

export function LineMark({ parts, line }: { parts: Parts; line: Line }) {
  const [given] = line.yields
  if (given?.table) return <TableMark />
  if (given?.source) return <SourceMark kind={parts.source.get(given.source)?.kind ?? 'enemy'} />
  return <TierMark tier={parts.tier.get(lineTier(parts, line) ?? '')} />
}

function suggestions(parts: Parts, table: Table, text: string): Suggestion[] {
  const wanted = text.trim().toLowerCase()
  const fits = (name: string) => name.toLowerCase().includes(wanted)
  const first = (name: string) => (name.toLowerCase().startsWith(wanted) ? 0 : 1)
  const items = [...parts.item.values()]
    .filter((item) => fits(item.name))
    .map((item) => ({
      text: item.name,
      mark: <TierMark tier={parts.tier.get(item.tier)} />,
      note: parts.tier.get(item.tier)?.name,
    }))
  const tables = [...parts.table.values()]
    .filter((other) => other.id !== table.id && fits(other.name))
    .map((other) => ({ text: other.name, mark: <TableMark />, note: 'table' }))
  const sources = [...parts.source.values()]
    .filter((source) => fits(source.name))
    .map((source) => ({
      text: source.name,
      mark: <SourceMark kind={source.kind} />,
      note: 'source',
    }))
  const nothing = fits('nothing') ? [{ text: 'nothing', note: 'stated' }] : []
  return [...items, ...tables, ...sources, ...nothing].sort((a, b) => first(a.text) - first(b.text))
}

function quantityColumn({ parts }: Context): Column<Line> {
  return {
    key: 'quantity',
    head: (
      <>
        quan-
        <br />
        tity
      </>
    ),
    label: 'quantity',
    width: '44px',
    align: 'right',
    text: (line) => (line.yields[0] ? quantityText(line.yields[0].quantity) : ''),
    show: (line) => (
      <span className="num">{line.yields[0] ? quantityText(line.yields[0].quantity) : ''}</span>
    ),
    enter: (line, text) =>
      line.yields.length ? withQuantity(line, text) : 'nothing has no quantity',
    title: (line) =>
      line.yields.map((given) => quantityWords(parts, given)).join('; ') || undefined,
  }
}

/** What the rule's lines are entered with: weights, chances, both, or copies. */
function entryColumns(table: Table): Column<Line>[] {
  if (table.rule === 'pick') return [numberColumn('weight', 'entry')]
  if (table.rule === 'deck') return [numberColumn('copies', 'entry')]
  if (table.rule === 'retry') return [numberColumn('weight', 'weight'), chanceColumn()]
  return [chanceColumn()]
}

function numberColumn(name: 'weight' | 'copies', key: string): Column<Line> {
  const of = (line: Line) => Number((line as Record<string, unknown>)[name] ?? 0)
  return {
    key,
    head: name,
    label: name,
    width: '48px',
    align: 'right',
    text: (line) => entered(of(line)),
    show: (line) => <span className="num">{short(of(line))}</span>,
    enter: (line, text) => {
      const value = typedNumber(text)
      return value === null ? `${name} is a number` : ({ ...line, [name]: value } as Line)
    },
  }
}

function chanceColumn(): Column<Line> {
  return {
    key: 'entry',
    head: 'chance',
    label: 'chance',
    width: '52px',
    align: 'right',
    text: (line) => `${entered(100 * entry(line))} %`,
    show: (line) => (
      <span className="num">
        {short(100 * entry(line))}
        <span className="text-muted">&#8239;%</span>
      </span>
    ),
    enter: (line, text) => {
      const value = typedChance(text)
      return value === null ? 'a chance is written 2 %, 0.02 or 1 in 50' : withEntry(line, value)
    },
  }
}

function multiplierColumn(of: (line: Line) => { multiplier: number } | undefined): Column<Line> {
  return {
    key: 'multiplier',
    head: 'curves',
    label: 'curves at this depth',
    width: '44px',
    align: 'right',
    text: (line) => figures(of(line)?.multiplier ?? 1),
    show: (line) => (
      <span className="num text-muted">×{(of(line)?.multiplier ?? 1).toFixed(2)}</span>
    ),
  }
}

function answer(
  context: Context,
  column: {
    key: 'chance' | 'one_in' | 'per_100'
    head: [string, string]
    label: string
    width: string
    value: (line: Line) => string
    unit?: string
    /** It tells the long run, which no entry can be worked out from. */
    later?: boolean
    read: (text: string) => number | null
    hint: string
  },
): Column<Line> {
  return {
    key: column.key,
    head: (
      <>
        {column.head[0]}
        <br />
        {column.head[1]}
      </>
    ),
    label: column.label,
    width: column.width,
    align: 'right',
    text: (line) => column.value(line) + (column.unit ? ` ${column.unit}` : ''),
    title: (line) => (column.key === 'chance' && isPinned(line) ? PINNED : undefined),
    show: (line) => (
      <AnswerCell text={column.value(line)} pinned={column.key === 'chance' && isPinned(line)} />
    ),
    answer: (line, text) => {
      if (column.later)
        return Promise.resolve({ message: 'these are for the long run; type into fresh numbers' })
      const wanted = column.read(text)
      if (wanted === null) return Promise.resolve({ message: column.hint })
      return makeTrue(context.table, line, column.key, wanted, `${column.label} ${text.trim()}`)
    },
  }
}

/** A share to two figures, or to a hundredth of a percent. */
function sharePercent(share: number): string {
  return Math.abs(share) < 0.01 ? (100 * share).toFixed(2).replace('-', '−') : percent(share, 2)
}

const PINNED = 'pinned: it keeps this chance when that of another line is typed'

function AnswerCell({ text, pinned = false }: { text: string; pinned?: boolean }) {
  const [front = '', back] = text.split('.')
  if (!text) return <span className="num text-muted">–</span>
  return (
    <span className="num inline-flex">
      {pinned && (
        <svg
          width="7"
          height="11"
          viewBox="0 0 7 11"
          aria-label="pinned"
          className="mr-1 self-center"
        >
          <circle cx="3.5" cy="3" r="2.5" fill="#c8951b" />
          <path d="M3.5 5 V11" stroke="#c8951b" strokeWidth="1.3" />
        </svg>
      )}
      {front}
      <span className="inline-block w-[3.4ch]">{back ? `.${back}` : ''}</span>
    </span>
  )
}

async function makeTrue(
  table: Table,
  line: Line,
  kind: string,
  wanted: number,
  said: string,
): Promise<Failure | null> {
  const { id, sheet, depth, flags } = useGame.getState()
  if (sheet?.kind !== 'source' && sheet?.kind !== 'table') return null
  try {
    const view = { kind: sheet.kind, id: sheet.id }
    const looked = { view, depth, flags, draft: [] }
    const { body } = await api.answer(id, {
      ...looked,
      table: table.id,
      line: line.id,
      answer: kind,
      wanted,
    })
    return await commit(said, [tableEntry(body)])
  } catch (error) {
    return { message: error instanceof Error ? error.message : String(error) }
  }
}

function openColumn({ parts, depth }: Context): Column<Line> {
  const scale: [number, number] = [parts.settings.depth.from, parts.settings.depth.to]
  return {
    key: 'open',
    head: (
      <>
        open
        <br />
        depths
      </>
    ),
    label: 'open depths',
    width: '42px',
    text: (line) => (line.depths ? line.depths.join('-') : 'all'),
    title: (line) => (line.depths ? `${line.depths[0]} to ${line.depths[1]}` : 'at all depths'),
    show: (line) => <OpenBar range={line.depths ?? scale} scale={scale} depth={depth} />,
    enter: (line, text) => {
      const range = typedRange(text, scale)
      return typeof range === 'string' ? range : { ...line, depths: range }
    },
  }
}

function limitsColumn({ parts, table, odds, held }: Context): Column<Line> {
  const byChance = table.rule !== 'pick'
  return {
    key: 'limits',
    head: 'limits',
    label: 'limits',
    width: '66px',
    text: (line) => limitsText(line, byChance),
    show: (line) => (
      <LimitsCell
        part={line}
        name={lineName(parts, line)}
        byChance={byChance}
        canGuard={table.rule !== 'deck'}
        chance={odds?.lines[line.id]?.chance}
        held={held.find((one) => one.table === table.id && one.line === line.id)}
        onChange={(label, changed, more) =>
          commit(`${label} of ${lineName(parts, line)}, ${table.name}`, [
            ...more,
            tableEntry({
              ...table,
              lines: table.lines.map((one) => (one.id === line.id ? { ...one, ...changed } : one)),
            } as Table),
          ])
        }
      />
    ),
  }
}

/** Read "4-30", "4" or "all" as a range of depths. */
export function typedRange(
  text: string,
  scale: [number, number],
): [number, number] | null | string {
  if (/^\s*(all|)\s*$/i.test(text)) return null
  const match = /^\s*(\d+)\s*(?:[-–]\s*(\d+))?\s*$/.exec(text)
  if (!match) return 'depths are written 4-30, 4 or all'
  const [low, high] = [Number(match[1]), Number(match[2] ?? match[1])]
  if (low > high) return `${low} is deeper than ${high}; swap them`
  if (low < scale[0] || high > scale[1]) return `depths go from ${scale[0]} to ${scale[1]}`
  return [low, high]
}

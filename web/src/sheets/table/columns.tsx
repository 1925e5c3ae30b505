// The columns of a table's lines: what was entered, when a line is open, and its answers.
import { useState } from 'react'
import type { Finding, Held, Line, SheetOdds, Table, TableOdds } from '@/api/types'
import { OpenBar } from '@/plots/OpenBar'
import { change } from '@/game/edit'
import type { Parts } from '@/game/parts'
import { Becoming } from '@/tuning/Becoming'
import { lineName, lineTier, quantityText, quantityWords, yieldByName } from '@/game/words'
import { entered, short } from '@/text/format'
import { readRange } from '@/text/readers'
import { readChance, readNumber } from '@/text/numbers'
import { SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { Pop } from '@/ui/Menu'
import type { Column, Suggestion } from '@/ui/grid/columns'
import { answerColumns, shareColumn } from './answers'
import { LimitsCell, limitsText } from './LimitsCell'
import { enteredIn, withEntry, withLines, withQuantity, withYield, withYields } from './lines'
import { YieldsForm } from './YieldsForm'
import { Explained } from '@/ui/Explained'

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
  const { table, odds } = context
  const of = (line: Line) => odds?.lines[line.id]
  const scaled = Object.values(odds?.lines ?? {}).some((line) => line.multiplier !== 1)
  return [
    givesColumn(context),
    quantityColumn(context),
    ...entryColumns(table),
    ...(scaled ? [multiplierColumn(of)] : []),
    ...answerColumns({ ...context, of }),
    openColumn(context),
    limitsColumn(context),
    shareColumn(of),
  ]
}

function givesColumn({ parts, table }: Context): Column<Line> {
  return {
    key: 'gives',
    head: 'gives',
    label: 'gives',
    width: 'minmax(108px,1fr)',
    text: (line) => lineName(parts, line),
    show: (line) => (
      <span className="flex w-full min-w-0 items-center gap-2">
        <LineMark parts={parts} line={line} />
        <span
          className={`name truncate text-item ${line.yields.length ? '' : 'text-muted italic'}`}
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
    offer: (text) => ({ kind: 'item', name: text.trim() }),
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
            className="bg-raised px-1.5 text-muted opacity-0 hover:text-ink focus-visible:opacity-100 group-hover:opacity-100 aria-expanded:opacity-100"
          >
            +
          </button>
        }
      >
        <YieldsForm
          line={line}
          onDone={() => setOpen(false)}
          onSave={(yields, more) => {
            const given = (one: Line) => (one.id === line.id ? withYields(one, yields) : one)
            const changed = (now: Table) => withLines(now, now.lines.map(given))
            return change('table', table.id, 'what a line gives', changed, more)
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
  // A name that is typed in full comes before those that begin with it.
  const first = (name: string) => {
    const known = name.toLowerCase()
    return known === wanted ? 0 : known.startsWith(wanted) ? 1 : 2
  }
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

function quantityColumn({ parts, table }: Context): Column<Line> {
  const text = (line: Line) => (line.yields[0] ? quantityText(line.yields[0].quantity) : '')
  const longest = Math.max(...table.lines.map((line) => text(line).length), 0)
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
    // "50-100/25" in one line.
    width: `${Math.min(82, Math.max(44, 10 + 6.8 * longest))}px`,
    align: 'right',
    text,
    show: (line) => <span className="num whitespace-nowrap">{text(line)}</span>,
    enter: (line, text) =>
      line.yields.length ? withQuantity(line, text) : 'nothing has no quantity',
    title: (line) =>
      line.yields.map((given) => quantityWords(parts, given)).join('; ') || undefined,
  }
}

/** What the rule's lines are entered with: weights, chances, both, or copies. */
function entryColumns(table: Table): Column<Line>[] {
  const { id, rule } = table
  if (rule === 'pick') return [numberColumn(id, 'weight', 'entry')]
  if (rule === 'deck') return [numberColumn(id, 'copies', 'entry')]
  if (rule === 'retry') return [numberColumn(id, 'weight', 'weight'), chanceColumn(id)]
  return [chanceColumn(id)]
}

function numberColumn(table: string, name: 'weight' | 'copies', key: string): Column<Line> {
  const of = (line: Line) => Number((line as Record<string, unknown>)[name] ?? 0)
  return {
    key,
    head: name === 'copies' ? <Explained term="copies" /> : name,
    label: name,
    width: '48px',
    align: 'right',
    text: (line) => entered(of(line)),
    show: (line) => (
      <Becoming kind="table" id={table} part={line.id} sort={name} written={short}>
        <span className="num">{short(of(line))}</span>
      </Becoming>
    ),
    enter: (line, text) => {
      const value = readNumber(text)
      return typeof value === 'string' ? value : ({ ...line, [name]: value } as Line)
    },
  }
}

function chanceColumn(table: string): Column<Line> {
  return {
    key: 'entry',
    head: 'chance',
    label: 'chance',
    width: '52px',
    align: 'right',
    text: (line) => `${entered(enteredIn(line), 100)} %`,
    show: (line) => (
      <Becoming
        kind="table"
        id={table}
        part={line.id}
        sort="chance"
        written={(chance) => <>{short(100 * chance)}&#8239;%</>}
      >
        <span className="num">
          {short(100 * enteredIn(line))}
          <span className="text-muted">&#8239;%</span>
        </span>
      </Becoming>
    ),
    enter: (line, text) => {
      const value = readChance(text)
      return typeof value === 'string' ? value : withEntry(line, value)
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
    text: (line) => `×${(of(line)?.multiplier ?? 1).toFixed(2)}`,
    show: (line) => (
      <span className="num text-muted">×{(of(line)?.multiplier ?? 1).toFixed(2)}</span>
    ),
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
      const range = readRange(text, scale)
      return typeof range === 'string' ? range : { ...line, depths: range }
    },
  }
}

function limitsColumn({ parts, table, odds, held }: Context): Column<Line> {
  const byChance = table.rule !== 'pick'
  // What is not needed for guards or other limits is room for names.
  const isEmpty = table.lines.every((line) => !limitsText(parts, line, byChance))
  const width = table.lines.some((line) => line.guard) ? '66px' : isEmpty ? '44px' : '48px'
  return {
    key: 'limits',
    head: 'limits',
    label: 'limits',
    width,
    text: (line) => limitsText(parts, line, byChance),
    show: (line) => (
      <LimitsCell
        part={line}
        name={lineName(parts, line)}
        byChance={byChance}
        canGuard={table.rule !== 'deck'}
        chance={odds?.lines[line.id]?.chance}
        held={held.find((one) => one.table === table.id && one.line === line.id)}
        onChange={(label, changed, more) =>
          change(
            'table',
            table.id,
            `${label} of ${lineName(parts, line)}`,
            (now) => void Object.assign(now.lines.find((one) => one.id === line.id) ?? {}, changed),
            more,
          )
        }
      />
    ),
  }
}

// The answers of a line, which can be typed into too: then the entry that makes them true is found.
import { api } from '@/api/client'
import type { Line, LineOdds, Table } from '@/api/types'
import { askedNow } from '@/game/asked'
import { take } from '@/game/edit'
import { tick } from '@/game/ticks'
import { useGame, type Failure } from '@/game/store'
import { brief, figures, percent } from '@/text/format'
import { readChance, readNumber, readOneIn } from '@/text/numbers'
import type { Column } from '@/ui/grid/columns'
import { isPinned } from './lines'
import { Explained } from '@/ui/Explained'

interface Context {
  table: Table
  of: (line: Line) => LineOdds | undefined
  words: { one: string; many: string }
  longRun: boolean
}

interface Answer {
  key: 'chance' | 'one_in' | 'per_100'
  head: [string, string]
  label: string
  width: string
  value: (line: Line) => number | null | undefined
  read: (text: string) => number | string
  /** Of the long run where players had to be played for it: its standard error. */
  error?: (line: Line) => number | undefined
  /** It tells the long run, which no entry can be worked out from. */
  later?: boolean
}

export function answerColumns(context: Context): Column<Line>[] {
  const { of, words, longRun: later } = context
  const columns: Answer[] = [
    {
      key: 'chance',
      // A chance is always a fresh player's: beside the long run it says so.
      head: [later ? 'fresh chance' : 'chance', 'a roll, %'],
      label: later ? 'fresh chance a roll' : 'chance a roll',
      width: '62px',
      value: (line) => of(line)?.chance,
      read: (text) => readChance(text, 'percent'),
    },
    {
      key: 'one_in',
      head: [words.many, 'for one'],
      label: `${words.many} for one`,
      width: '56px',
      value: (line) => (later ? of(line)?.long_run_one_in : of(line)?.one_in),
      error: (line) => of(line)?.long_run_one_in_error,
      later,
      read: readOneIn,
    },
    {
      key: 'per_100',
      head: ['per 100', words.many],
      label: `per 100 ${words.many}`,
      width: '56px',
      value: (line) => (later ? of(line)?.long_run_100 : of(line)?.per_100),
      error: (line) => of(line)?.long_run_100_error,
      later,
      read: readNumber,
    },
  ]
  return columns.map((column) => answerColumn(context.table, column))
}

const PINNED = 'pinned: it keeps this chance when that of another line is typed'

function answerColumn(table: Table, column: Answer): Column<Line> {
  const isChance = column.key === 'chance'
  const said = (line: Line) => (isChance ? percent : figures)(column.value(line))
  const shown = (line: Line) => (isChance ? percent : brief)(column.value(line))
  const error = (line: Line) => (column.later && column.error?.(line)) || 0
  const title = (line: Line) => {
    if (isChance && isPinned(line)) return PINNED
    if (shown(line) !== said(line)) return said(line)
    return error(line) > 0 ? `${said(line)} ± ${figures(error(line), 2)}, simulated` : undefined
  }
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
    text: (line) => said(line) + (isChance ? ' %' : ''),
    title,
    show: (line) => (
      <AnswerCell text={shown(line)} error={error(line)} pinned={isChance && isPinned(line)} />
    ),
    answer: (line, text) => {
      if (column.later)
        return Promise.resolve({ message: 'these are for the long run; type into fresh numbers' })
      const wanted = column.read(text)
      if (typeof wanted === 'string') return Promise.resolve({ message: wanted })
      return makeTrue(table, line, column.key, wanted, `${column.label} ${text.trim()}`)
    },
  }
}

export function shareColumn(of: Context['of']): Column<Line> {
  const said = (line: Line) => {
    const share = of(line)?.share
    return share === undefined || share === null ? '' : sharePercent(share)
  }
  return {
    key: 'share',
    head: (
      <>
        share of
        <br />
        <Explained term="swing" />, %
      </>
    ),
    label: 'share of swing',
    width: '60px',
    align: 'right',
    text: (line) => `${said(line)} %`,
    show: (line) => <AnswerCell text={said(line)} />,
  }
}

/** A share to two figures, or to a hundredth of a percent. */
function sharePercent(share: number): string {
  return Math.abs(share) < 0.01 ? (100 * share).toFixed(2).replace('-', '−') : percent(share, 2)
}

/** Figures stand with their points below each other; a standard error is written under its figure. */
function AnswerCell({ text, error = 0, pinned = false }: AnswerCellProps) {
  const [front = '', back] = text.split('.')
  if (!text) return <span className="num text-muted">–</span>
  return (
    <span className="flex flex-col items-end">
      <span className="num told inline-flex">
        {pinned && <Pin />}
        {front}
        <span className="inline-block w-[3.4ch]">{back ? `.${back}` : ''}</span>
      </span>
      {error > 0 && (
        <span className="num -mt-[3px] text-micro leading-[11px] text-waiting">
          ±&#8239;{brief(error, 2)}
        </span>
      )}
    </span>
  )
}

interface AnswerCellProps {
  text: string
  error?: number
  pinned?: boolean
}

function Pin() {
  return (
    <svg width="7" height="11" viewBox="0 0 7 11" aria-label="pinned" className="mr-1 self-center">
      <circle cx="3.5" cy="3" r="2.5" fill="var(--color-gold)" />
      <path d="M3.5 5 V11" stroke="var(--color-gold)" strokeWidth="1.3" />
    </svg>
  )
}

async function makeTrue(
  table: Table,
  line: Line,
  kind: string,
  wanted: number,
  said: string,
): Promise<Failure | null> {
  const { id, sheet, depth, flags, parts } = useGame.getState()
  if (sheet?.kind !== 'source' && sheet?.kind !== 'table') return null
  try {
    const view = { kind: sheet.kind, id: sheet.id }
    const looked = { view, depth, flags, ...askedNow() }
    const { body } = await api.answer(id, {
      ...looked,
      table: table.id,
      line: line.id,
      answer: kind,
      wanted,
    })
    tick(2)
    return await take(said, [{ kind: 'table', id: table.id, body: body as never }], parts)
  } catch (error) {
    return { message: error instanceof Error ? error.message : String(error) }
  }
}

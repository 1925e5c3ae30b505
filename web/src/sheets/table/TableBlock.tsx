// A table wherever it is rolled: its sentence, its strip, its lines, and what is nested in them.
import { useMemo, useState } from 'react'
import { useFindings } from '@/api/queries'
import type { EntryIn, Line, SheetOdds, Table } from '@/api/types'
import { commit } from '@/game/sync'
import { madeOf } from '@/game/fresh'
import { withEntries } from '@/game/parts'
import { setDraft, show, useGame, useGamePart } from '@/game/store'
import { lineName, lineTier, quantityText, RULE_WORDS, RULES, typedQuantity } from '@/game/words'
import { Cards } from '@/plots/Cards'
import { HitStrips, Strip, type Segment } from '@/plots/Strip'
import { entered, figures, percent } from '@/ui/format'
import { typedNumber } from '@/ui/numbers'
import { EditText } from '@/ui/EditText'
import { FoldButton } from '@/ui/Fold'
import { Grid } from '@/ui/grid/Grid'
import { Menu } from '@/ui/Menu'
import { CurveChoice } from '../CurveChoice'
import { lineColumns } from './columns'
import { Compare, rollAs } from './Compare'
import { findingsOf, Notes } from './Notes'
import {
  copyOfLine,
  entry,
  isPinned,
  newLine,
  NOTHING,
  tableEntry,
  withBoundary,
  withLines,
} from './lines'
import { Explained } from '@/ui/Explained'

interface Props {
  table: Table
  sheet: SheetOdds | undefined
  words: { one: string; many: string }
  fell?: Map<string, number>
  /** Tables that hold this one, so that nesting is shown once. */
  within?: string[]
}

export function TableBlock({ table, sheet, words, fell, within = [] }: Props) {
  const { parts, depth, hot, longRun, held } = useGamePart(
    'parts',
    'depth',
    'hot',
    'longRun',
    'held',
  )
  const [comparing, setComparing] = useState(false)
  const { data: found } = useFindings()
  const odds = sheet?.tables[table.id]
  const context = useMemo(() => {
    const findings = findingsOf(found?.findings, 'table', table.id)
    return { parts, table, odds, sheet, words, depth, longRun, held, findings }
  }, [parts, table, odds, sheet, words, depth, longRun, held, found])
  const columns = useMemo(() => lineColumns(context), [context])
  const hotLine = hot?.table === table.id ? hot.line : null
  const setHot = (line: string | null) =>
    useGame.setState({ hot: line === null ? null : { table: table.id, line } })
  const segments: Segment[] = table.lines.map((line) => ({
    id: line.id,
    name: lineName(parts, line),
    chance: odds?.lines[line.id]?.chance ?? 0,
    tier: parts.tier.get(lineTier(parts, line) ?? ''),
    blank: line.yields.length === 0,
  }))
  return (
    <section aria-label={`table ${table.name}`}>
      <Sentence table={table} odds={odds} onCompare={() => setComparing(!comparing)} />
      <Notes kind="table" id={table.id} />
      {comparing && <Compare table={table} onClose={() => setComparing(false)} />}
      {table.rule === 'each' ? (
        <HitStrips segments={segments} hot={hotLine} onHot={setHot} />
      ) : (
        <Strip
          label={`what one roll of ${table.name} can do`}
          segments={[
            ...segments,
            {
              id: NOTHING,
              name: 'nothing',
              chance: odds?.nothing ?? 0,
              tier: undefined,
              blank: true,
            },
          ]}
          fell={fell?.get(table.id)}
          hot={hotLine}
          onHot={setHot}
          onMove={
            table.rule === 'pick' && odds
              ? (left, right, by, done) => moveBoundary(table, odds, left, right, by, done)
              : undefined
          }
        />
      )}
      {table.rule === 'deck' && <DeckCards table={table} />}
      <Arithmetic table={table} sheet={sheet} words={words} line={hotLine} />
      <Grid<Line>
        label={`lines of ${table.name}`}
        noun="line"
        rows={table.lines}
        columns={columns}
        idOf={(line) => line.id}
        nameOf={(line) => lineName(parts, line)}
        onRows={(label, lines) =>
          commit(`${label}, ${table.name}`, [tableEntry(withLines(table, lines))])
        }
        onDraft={(lines) => setDraft(lines ? [tableEntry(withLines(table, lines))] : [])}
        newRow={(lines) => newLine(table, lines)}
        copyOf={copyOfLine}
        carried
        actions={(line) => (table.rule === 'pick' ? [pinning(table, line)] : [])}
        dimmed={(line) => odds?.lines[line.id]?.open === false}
        lit={(line) => hotLine === line.id}
        onRow={(line) =>
          useGame.setState(
            line
              ? {
                  focus: { kind: 'line', table: table.id, line: line.id },
                  hot: { table: table.id, line: line.id },
                }
              : { focus: null },
          )
        }
        making={(offers) => {
          const made = madeOf(parts, offers)
          return {
            columns: lineColumns({ ...context, parts: withEntries(parts, made) }),
            onRows: (label, lines) =>
              commit(`${label}, ${table.name}`, [...made, tableEntry(withLines(table, lines))]),
          }
        }}
        addText="+ add a line, or paste rows from a spreadsheet"
      />
      <Nested table={table} sheet={sheet} words={words} fell={fell} within={within} />
    </section>
  )
}

/** A pinned line keeps its chance when another line's chance is typed. */
function pinning(table: Table, line: Line) {
  const pinned = isPinned(line)
  const next = table.lines.map((one) => (one.id === line.id ? { ...one, pinned: !pinned } : one))
  return {
    label: pinned ? 'Let its chance give way' : 'Pin its chance',
    run: () =>
      void commit(`${pinned ? 'unpinned' : 'pinned'} a line, ${table.name}`, [
        tableEntry(withLines(table, next as Line[])),
      ]),
  }
}

/** The deck's cards, and which of them the tray's player has drawn. */
function DeckCards({ table }: { table: Extract<Table, { rule: 'deck' }> }) {
  const { parts, held } = useGamePart('parts', 'held')
  const left = new Map(
    held.flatMap((one) => (one.table === table.id ? [[one.line, one.left]] : [])),
  )
  const piles = table.lines.map((line) => ({
    id: line.id,
    name: lineName(parts, line),
    copies: line.copies,
    left: left.get(line.id) ?? line.copies,
    tier: parts.tier.get(lineTier(parts, line) ?? ''),
  }))
  return <Cards piles={piles} />
}

function Sentence({
  table,
  odds,
  onCompare,
}: {
  table: Table
  odds: SheetOdds['tables'][string] | undefined
  onCompare: () => void
}) {
  const save = (label: string, changed: object, more: EntryIn[] = []) =>
    commit(`${label} of ${table.name}`, [...more, tableEntry({ ...table, ...changed } as Table)])
  const draft = (changed: object | null) =>
    setDraft(changed ? [tableEntry({ ...table, ...changed } as Table)] : [])
  const one = quantityText(table.rolls) === '1'
  const changeRule = (rule: string) => rollAs(table, rule as Table['rule'])
  return (
    <p className="py-1 text-[12.5px] leading-6 text-muted">
      Roll{' '}
      <EditText
        label="rolls"
        text={quantityText(table.rolls)}
        className="choice num text-ink"
        onDraft={(text) =>
          draft(text === null ? null : { rolls: typedQuantity(text, table.rolls.curve) })
        }
        onCommit={(text) => save('rolls', { rolls: typedQuantity(text, table.rolls.curve) })}
      />
      <CurveChoice
        of="the number of rolls"
        owner={`rolls of ${table.name}`}
        value={table.rolls.curve}
        onChange={(curve, more) =>
          save('curve of the rolls', { rolls: { ...table.rolls, curve } }, more)
        }
      />
      {one ? ' time; it ' : ' times; each roll '}
      <Menu
        label={`how ${table.name} is rolled`}
        trigger={
          <button type="button" className="choice text-ink">
            {RULE_WORDS[table.rule]}
          </button>
        }
        entries={RULES.map((rule) => ({
          label: RULE_WORDS[rule],
          disabled: rule === table.rule,
          run: () => void changeRule(rule),
        }))}
      />
      {table.rule === 'pick' && (
        <>
          ; <Explained term="blank weight" />{' '}
          <EditText
            label="blank weight"
            text={entered(table.nothing)}
            className="choice num text-ink"
            onDraft={(text) => {
              const value = text === null ? null : typedNumber(text)
              draft(value === null ? null : { nothing: value })
            }}
            onCommit={(text) => {
              const value = typedNumber(text)
              return value === null
                ? { message: 'a weight is a number' }
                : save('blank weight', { nothing: value })
            }}
          />
          <CurveChoice
            of="the blank weight"
            owner={`blank of ${table.name}`}
            value={table.nothing_curve}
            onChange={(curve, more) => save('curve of the blank', { nothing_curve: curve }, more)}
          />
        </>
      )}
      {table.rule === 'pick' && (
        <>
          ;{' '}
          <Explained
            term="lines may repeat"
            by={
              <button
                type="button"
                className="choice text-ink"
                onClick={() => void save('distinct picks', { distinct: !table.distinct })}
              >
                {table.distinct ? 'no line twice' : 'lines may repeat'}
              </button>
            }
          />
        </>
      )}
      {table.rule === 'retry' && (
        <>
          {' '}
          up to{' '}
          <EditText
            label="tries"
            text={String(table.tries)}
            className="choice num text-ink"
            onDraft={(text) => {
              const tries = text === null ? null : typedNumber(text)
              draft(tries === null ? null : { tries })
            }}
            onCommit={(text) => {
              const tries = typedNumber(text)
              return tries === null ? { message: 'a whole number' } : save('tries', { tries })
            }}
          />{' '}
          times in all
        </>
      )}
      {table.rule === 'retry' && odds && <> which come to the strip below</>}
      {odds && table.rule !== 'pick' && (
        <span>
          ; nothing at all in <b className="num text-ink">{percent(odds.empty)}&#8239;%</b> of rolls
        </span>
      )}{' '}
      <button
        type="button"
        className="label ml-1 underline decoration-hair underline-offset-2 hover:text-ink"
        onClick={onCompare}
      >
        what if rolled otherwise?
      </button>
    </p>
  )
}

let dragging = ''

function moveBoundary(
  table: Table,
  odds: SheetOdds['tables'][string],
  left: string,
  right: string,
  by: number,
  done: boolean,
) {
  const key = `${table.id}/${left}/${right}`
  // While a drag goes on, odds on screen follow the draft; the move is told against its beginning.
  if (dragging !== key) {
    dragging = key
    began = { table, odds }
  }
  const next = tableEntry(withBoundary(began.table, began.odds, left, right, by))
  if (!done) return setDraft([next])
  dragging = ''
  void commit(`moved a boundary of ${table.name}`, [next]).then(() => setDraft([]))
}

let began: { table: Table; odds: SheetOdds['tables'][string] }

/** Where one line's chance comes from, spelt out. */
function Arithmetic({
  table,
  sheet,
  words,
  line: id,
}: {
  table: Table
  sheet: SheetOdds | undefined
  words: { one: string; many: string }
  line: string | null
}) {
  const { parts, draft, longRun } = useGamePart('parts', 'draft', 'longRun')
  // While something is typed, the odds are the draft's, and so must be what is said of them.
  const drafted = draft.find((one) => one.kind === 'table' && one.id === table.id)?.body
  const lines = (drafted as unknown as Table | undefined)?.lines ?? table.lines
  const line = lines.find((one) => one.id === id)
  const odds = id ? sheet?.tables[table.id]?.lines[id] : undefined
  if (!line || !odds) return <p className="h-5" />
  const weight = entry(line) * odds.multiplier
  const rest = odds.chance > 0 ? weight / odds.chance : 0
  return (
    <p className="h-5 truncate text-[12px] text-muted">
      <span className="name mr-1.5 text-[13px] text-ink">{lineName(parts, line)}</span>
      {table.rule === 'pick' && odds.chance > 0 && (
        <span className="num">
          {entered(entry(line))}
          {odds.multiplier !== 1 && ` × ${odds.multiplier.toFixed(3)}`} ÷ {figures(rest, 4)} ={' '}
        </span>
      )}
      <b className="num text-ink">{percent(odds.chance)}&#8239;%</b> a roll{longRun && ' at first'}
      {odds.one_in !== null && (
        <>
          , 1 in <b className="num text-ink">{figures(odds.one_in)}</b> {words.many}
        </>
      )}
      {!odds.open && ', closed at this depth'}
    </p>
  )
}

function Nested({ table, sheet, words, fell, within = [] }: Props) {
  const parts = useGame((state) => state.parts)
  const ids = new Set(
    table.lines.flatMap((line) =>
      line.yields.flatMap((given) => (given.table ? [given.table] : [])),
    ),
  )
  const inner = [...ids].flatMap((id) => parts.table.get(id) ?? [])
  return (
    <>
      {inner
        .filter((one) => !within.includes(one.id) && one.id !== table.id)
        .map((one) => (
          <Fold key={one.id} table={one}>
            <TableBlock
              table={one}
              sheet={sheet}
              words={words}
              fell={fell}
              within={[...within, table.id]}
            />
          </Fold>
        ))}
    </>
  )
}

function Fold({ table, children }: { table: Table; children: React.ReactNode }) {
  const [open, setOpen] = useState(false)
  return (
    <div className="mt-1 border-l border-hair pl-3">
      <div className="flex items-baseline gap-2">
        <FoldButton open={open} onOpen={setOpen} className="flex items-baseline gap-1.5">
          <span className="label">within,</span>
          <span className="name text-[15px]">{table.name}</span>
        </FoldButton>
        <button
          type="button"
          className="label underline decoration-hair underline-offset-2 hover:text-ink"
          onClick={() => show({ kind: 'table', id: table.id })}
        >
          open alone
        </button>
      </div>
      {open && children}
    </div>
  )
}

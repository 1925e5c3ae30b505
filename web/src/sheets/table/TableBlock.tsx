// A table wherever it is rolled: its sentence, its strip, its lines, and what is nested in them.
import { useMemo, useState } from 'react'
import { useFindings } from '@/game/queries'
import type { Line, SheetOdds, Table } from '@/api/types'
import { change, sketchOf, whole } from '@/game/edit'
import { madeOf } from '@/game/fresh'
import { withEntries } from '@/game/parts'
import { show, useGame, useGamePart } from '@/game/store'
import { lineName, lineTier } from '@/game/words'
import { Cards } from '@/plots/Cards'
import { HitStrips, Strip, type Segment } from '@/plots/Strip'
import { FoldButton } from '@/ui/Fold'
import { Grid } from '@/ui/grid/Grid'
import { lineColumns } from './columns'
import { Arithmetic } from './Arithmetic'
import { moveBoundary } from './boundary'
import { Compare } from './Compare'
import { TableSentence } from './TableSentence'
import { findingsOf, Findings } from '../Findings'
import { copyOfLine, isPinned, newLine, NOTHING, withLines } from './lines'

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
      <TableSentence table={table} odds={odds} onCompare={() => setComparing(!comparing)} />
      <Findings kind="table" id={table.id} />
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
              ? (left, right, by, done) => moveBoundary(table.id, odds, [left, right], by, done)
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
        onRows={(label, changed) => change('table', table.id, label, linesOf(changed))}
        onDraft={(changed) => sketchOf('table', table.id, changed && linesOf(changed))}
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
            onRows: (label, changed) => change('table', table.id, label, linesOf(changed), made),
          }
        }}
        addText="+ add a line, or paste rows from a spreadsheet"
      />
      <Nested table={table} sheet={sheet} words={words} fell={fell} within={within} />
    </section>
  )
}

const linesOf = (changed: (lines: Line[]) => Line[]) =>
  whole((now: Table) => withLines(now, changed(now.lines)))

/** A pinned line keeps its chance when another line's chance is typed. */
function pinning(table: Table, line: Line) {
  const pinned = isPinned(line)
  return {
    label: pinned ? 'Let its chance give way' : 'Pin its chance',
    run: () =>
      void change('table', table.id, pinned ? 'unpinned a line' : 'pinned a line', ({ lines }) => {
        const mine = lines.find((one) => one.id === line.id)
        if (mine && 'pinned' in mine) mine.pinned = !pinned
      }),
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
          <span className="name text-lead">{table.name}</span>
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

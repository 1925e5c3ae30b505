// What if this table were rolled by another rule: the same entries, side by side.
import { useCompare } from '@/game/queries'
import { api } from '@/api/client'
import type { CompareOut, Line, Table } from '@/api/types'
import { askedNow } from '@/game/asked'
import { Answer, take } from '@/game/edit'
import { useGame, type Failure } from '@/game/store'
import { lineName, RULE_NAMES, RULE_WORDS } from '@/game/words'
import { percent } from '@/text/format'
import { Pending } from '@/ui/Pending'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { LineMark } from './columns'

type RuleReading = CompareOut['rules'][number]

/** Roll the table by another rule, the entries read as the server reads them now. */
export const rollAs = (table: Table, rule: Table['rule']): Answer =>
  new Answer(`${table.name} ${RULE_WORDS[rule]}`, rolledAs(table, rule))

async function rolledAs(table: Table, rule: Table['rule']): Promise<Failure | null> {
  const { id, depth, flags, parts } = useGame.getState()
  try {
    const { rules } = await api.compare(id, { ...askedNow(), table: table.id, depth, flags })
    const reading = rules.find((one) => one.rule === rule)
    if (!reading) return { message: `${table.name} cannot be rolled so` }
    const entry = { kind: 'table', id: table.id, body: reading.body }
    return await take(`${table.name} ${RULE_WORDS[rule]}`, [entry], parts)
  } catch (error) {
    return { message: error instanceof Error ? error.message : String(error) }
  }
}

export function Compare({ table, onClose }: { table: Table; onClose: () => void }) {
  const parts = useGame((state) => state.parts)
  const answer = useCompare(table.id)
  const { data } = answer
  const rules = data?.rules ?? []
  const columns: DataColumn<Row>[] = [
    {
      id: 'line',
      head: 'chance a roll, %',
      align: 'left',
      value: (row) => row.name,
      cell: (row) =>
        row.line && (
          <span className="flex items-center gap-2">
            <LineMark parts={parts} line={row.line} />
            <span className="name truncate text-body">{row.name}</span>
          </span>
        ),
    },
    ...rules.map((one) => ({
      id: one.rule,
      head: RULE_NAMES[one.rule as Table['rule']],
      shownHead: (
        <span
          title={RULE_WORDS[one.rule as Table['rule']]}
          className={one.rule === table.rule ? 'font-semibold text-ink' : ''}
        >
          {RULE_NAMES[one.rule as Table['rule']]}
        </span>
      ),
      value: (row: Row) => percentOf(chanceOf(one, row)),
      cell: (row: Row) => percent(chanceOf(one, row)),
      className: `num ${one.rule === table.rule ? 'font-semibold' : ''}`,
    })),
  ]
  return (
    <section
      aria-label={`${table.name} under each rule`}
      className="mb-2 border-y border-hair bg-raised px-3 py-2 text-small"
    >
      <p className="mb-1 flex items-baseline justify-between">
        <span className="head">The same entries, rolled otherwise</span>
        <button type="button" className="label hover:text-ink" onClick={onClose}>
          close
        </button>
      </p>
      {!data && <Pending of={answer} what="each rule" />}
      <DataTable
        label="chances under each rule"
        columns={columns}
        rows={table.lines.map((line) => ({ line, key: line.id, name: lineName(parts, line) }))}
        keyOf={(row) => row.key}
        foot={[
          { key: 'no line at all', name: 'no line at all' },
          { key: 'hits', name: 'lines that hit, per 100 rolls' },
        ]}
      />
      <p className="mt-1 flex flex-wrap items-baseline justify-end gap-2">
        <span className="label">roll it so:</span>
        {rules.map(
          (one) =>
            one.rule !== table.rule && (
              <button
                key={one.rule}
                type="button"
                className="plain-button px-1.5 py-0 text-tiny"
                aria-label={`roll it so: ${RULE_NAMES[one.rule as Table['rule']]}`}
                onClick={() => void rollAs(table, one.rule as Table['rule'])}
              >
                {RULE_NAMES[one.rule as Table['rule']]}
              </button>
            ),
        )}
      </p>
    </section>
  )
}

interface Row {
  key: string
  name: string
  line?: Line
}

const percentOf = (p: number | null) => (p === null ? null : 100 * p)

/** A line's chance under a rule; of what is no line, what stands for it. */
function chanceOf(one: RuleReading, row: Row): number | null {
  if (row.line) return one.chances[row.line.id] ?? null
  return row.key === 'hits' ? one.hits : one.nothing
}

// What if this table were rolled by another rule: the same entries, side by side.
import { useCompare } from '@/api/queries'
import { api } from '@/api/client'
import type { Table } from '@/api/types'
import { askedNow } from '@/game/asked'
import { commit } from '@/game/sync'
import { useGame, type Failure } from '@/game/store'
import { lineName, RULE_NAMES, RULE_WORDS } from '@/game/words'
import { percent } from '@/ui/format'
import { LineMark } from './columns'

/** Roll the table by another rule, the entries read as the server reads them now. */
export async function rollAs(table: Table, rule: Table['rule']): Promise<Failure | null> {
  const { id, depth, flags, parts } = useGame.getState()
  try {
    const { rules } = await api.compare(id, { ...askedNow(), table: table.id, depth, flags })
    const reading = rules.find((one) => one.rule === rule)
    if (!reading) return { message: `${table.name} cannot be rolled so` }
    const entry = { kind: 'table', id: table.id, body: reading.body }
    return await commit(`${table.name} ${RULE_WORDS[rule]}`, [entry], parts)
  } catch (error) {
    return { message: error instanceof Error ? error.message : String(error) }
  }
}

export function Compare({ table, onClose }: { table: Table; onClose: () => void }) {
  const parts = useGame((state) => state.parts)
  const { data } = useCompare(table.id)
  const rules = data?.rules ?? []
  return (
    <section
      aria-label={`${table.name} under each rule`}
      className="mb-2 border-y border-hair bg-raised px-3 py-2 text-[12px]"
    >
      <p className="mb-1 flex items-baseline justify-between">
        <span className="head">The same entries, rolled otherwise</span>
        <button type="button" className="label hover:text-ink" onClick={onClose}>
          close
        </button>
      </p>
      <table className="w-full">
        <thead>
          <tr className="text-muted">
            <th className="text-left font-normal">chance a roll, %</th>
            {rules.map((one) => (
              <th
                key={one.rule}
                title={RULE_WORDS[one.rule as Table['rule']]}
                className={`px-1.5 text-right ${one.rule === table.rule ? 'text-ink' : 'font-normal'}`}
              >
                {RULE_NAMES[one.rule as Table['rule']]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.lines.map((line) => (
            <tr key={line.id} className="border-t border-hair/60">
              <td className="flex items-center gap-2 py-0.5">
                <LineMark parts={parts} line={line} />
                <span className="name truncate text-[13px]">{lineName(parts, line)}</span>
              </td>
              {rules.map((one) => (
                <Cell key={one.rule} own={one.rule === table.rule} value={one.chances[line.id]} />
              ))}
            </tr>
          ))}
          <tr className="border-t border-hair text-muted">
            <td className="py-0.5 italic">no line at all</td>
            {rules.map((one) => (
              <Cell key={one.rule} own={one.rule === table.rule} value={one.nothing} />
            ))}
          </tr>
          <tr className="text-muted">
            <td className="py-0.5">lines that hit, per 100 rolls</td>
            {rules.map((one) => (
              <Cell key={one.rule} own={one.rule === table.rule} value={one.hits} />
            ))}
          </tr>
          <tr>
            <td />
            {rules.map((one) => (
              <td key={one.rule} className="pt-1 text-right">
                {one.rule !== table.rule && (
                  <button
                    type="button"
                    className="plain-button px-1.5 py-0 text-[11px]"
                    aria-label={`roll it so: ${RULE_NAMES[one.rule as Table['rule']]}`}
                    onClick={() => void rollAs(table, one.rule as Table['rule'])}
                  >
                    roll it so
                  </button>
                )}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
    </section>
  )
}

function Cell({ own, value }: { own: boolean; value: number | undefined }) {
  return (
    <td className={`num px-1.5 text-right ${own ? 'font-semibold' : ''}`}>
      {value === undefined ? '' : percent(value)}
    </td>
  )
}

import type { SheetOdds, Table } from '@/api/types'
import { useGamePart } from '@/game/store'
import { lineName } from '@/game/words'
import { figures, percent, written } from '@/text/format'
import { enteredIn } from './lines'

/** Where one line's chance comes from, spelt out. */
export function Arithmetic({
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
  const weight = enteredIn(line) * odds.multiplier
  const rest = odds.chance > 0 ? weight / odds.chance : 0
  return (
    <p className="h-5 truncate text-small text-muted">
      <span className="name mr-1.5 text-body text-ink">{lineName(parts, line)}</span>
      {table.rule === 'pick' && odds.chance > 0 && (
        <span className="num">
          {written(enteredIn(line))}
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

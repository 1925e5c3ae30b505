// Edits of a table's body: pure, so that a draft and a saved edit are the same thing.
import type { Line, Table, TableOdds, Yield } from '@/api/types'
import { freshLetter } from '@/game/parts'
import { typedQuantity } from '@/game/words'

export function withLines(table: Table, lines: Line[]): Table {
  return { ...table, lines } as Table
}

/** What a line is entered with: a weight in a pick, a chance elsewhere. */
export function enteredIn(line: Line): number {
  if ('weight' in line && !('chance' in line)) return line.weight
  return 'chance' in line ? line.chance : 'copies' in line ? line.copies : 0
}

export function withEntry(line: Line, value: number): Line {
  if ('chance' in line) return { ...line, chance: value }
  return 'weight' in line ? { ...line, weight: value } : line
}

export const BLANK_YIELD = { item: null, table: null, source: null, pool: null } as const

export function withYields(line: Line, yields: Yield[]): Line {
  return { ...line, yields }
}

export function withYield(line: Line, given: Partial<Yield> | null): Line {
  if (given === null) return { ...line, yields: [] }
  const quantity = line.yields[0]?.quantity ?? { min: 1, max: 1, step: 1 }
  return { ...line, yields: [{ ...BLANK_YIELD, quantity, ...given } as Yield] }
}

/** Change how many the line gives; the server reads what was typed. */
export function withQuantity(line: Line, typed: string): Line {
  const [first, ...rest] = line.yields
  if (!first) return line
  const quantity = typedQuantity(typed, first.quantity.curve)
  return { ...line, yields: [{ ...first, quantity }, ...rest] }
}

export function isPinned(line: Line): boolean {
  return 'pinned' in line && line.pinned
}

export function newLine(table: Table, lines: Line[]): Line {
  const base = {
    id: freshLetter(lines),
    yields: [],
    curve: null,
    depths: null,
    needs: [],
    unless: [],
    guard: null,
    limit: null,
  }
  if (table.rule === 'pick') return { ...base, weight: 1, pinned: false }
  if (table.rule === 'retry') return { ...base, weight: 1, chance: 0.1 }
  if (table.rule === 'deck') return { ...base, copies: 1 }
  return { ...base, chance: 0.1 }
}

export function copyOfLine(line: Line, lines: Line[]): Line {
  return { ...line, id: freshLetter(lines) }
}

/** Weights after moving chance `by` from the right line to the left one; others stay. */
export function withBoundary(
  table: Table,
  odds: TableOdds,
  left: string,
  right: string,
  by: number,
): Table {
  if (table.rule !== 'pick') return table
  const chance = (id: string) => (id === NOTHING ? odds.nothing : (odds.lines[id]?.chance ?? 0))
  const scale = (id: string) => {
    const now = chance(id)
    const next = now + (id === left ? by : -by)
    return now > 0 ? Math.max(0, next) / now : 1
  }
  const moved = (id: string) => id === left || id === right
  return {
    ...table,
    nothing: moved(NOTHING) ? short(table.nothing * scale(NOTHING)) : table.nothing,
    lines: table.lines.map((line) =>
      moved(line.id) ? { ...line, weight: short(line.weight * scale(line.id)) } : line,
    ),
  }
}

export const NOTHING = '·nothing'

const short = (value: number) => Number(value.toPrecision(4))

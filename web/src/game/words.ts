// The game's words on screen: what things are called, what an event is.
import { quantityAsRead } from '@/text/readers'
import type { Item, Line, Quantity, Source, Table, Yield } from '@/api/types'
import type { Parts } from './parts'

/** What one event is called: alone, with its article, several. */
export interface EventWords {
  one: string
  a: string
  many: string
}

export const EVENT_OF = {
  enemy: { one: 'kill', a: 'a kill', many: 'kills' },
  container: { one: 'opening', a: 'an opening', many: 'openings' },
  node: { one: 'harvest', a: 'a harvest', many: 'harvests' },
  parcel: { one: 'purchase', a: 'a purchase', many: 'purchases' },
} as const

/** What stands for an event where a table is looked at by itself. */
export const ROLL: EventWords = { one: 'roll', a: 'a roll', many: 'rolls' }

const ROLL_OF_TABLE = {
  one: 'roll of the table',
  a: 'a roll of the table',
  many: 'rolls of the table',
}

export const RULE_WORDS: Record<Table['rule'], string> = {
  pick: 'picks one line by weight',
  each: 'tests every line on its own',
  first: 'gives the first line that hits',
  retry: 'picks a line, tests it, and retries',
  deck: 'draws a card',
}

export const RULES = Object.keys(RULE_WORDS) as Table['rule'][]

/** The rules in a word each, where a column is all the room there is. */
export const RULE_NAMES: Record<Table['rule'], string> = {
  pick: 'pick one',
  each: 'each alone',
  first: 'first hit',
  retry: 'retry',
  deck: 'deck',
}

export function eventWords(source: Source | undefined): EventWords {
  return source ? EVENT_OF[source.kind] : ROLL_OF_TABLE
}

/** What was typed, for the server to read; the curve that there was stays. */
export function typedQuantity(text: string, curve: string | null | undefined): Quantity {
  const typed = quantityAsRead(text)
  return (curve ? { typed, curve } : typed) as unknown as Quantity
}

/** A quantity as people write it; the server reads the same back. */
export function quantityText(quantity: Quantity | string): string {
  if (typeof quantity === 'string') return quantity
  if ('typed' in quantity) return String(quantity.typed)
  if (quantity.dice) return quantity.dice
  if (quantity.min === quantity.max) return String(quantity.min)
  return `${quantity.min}-${quantity.max}` + (quantity.step === 1 ? '' : `/${quantity.step}`)
}

/** A quantity's mean and range, as a hover tells them. */
export function quantityWords(parts: Parts, given: Yield): string {
  const { dice, curve } = given.quantity
  let [low, high] = [given.quantity.min ?? 0, given.quantity.max ?? 0]
  const thrown = /^(\d+)d(\d+)([+-]\d+)?$/i.exec(dice ?? '')
  if (thrown) {
    const [count, faces, plus] = [Number(thrown[1]), Number(thrown[2]), Number(thrown[3] ?? 0)]
    ;[low, high] = [count + plus, count * faces + plus]
  }
  const scaled = curve ? `, times ${parts.curve.get(curve)?.name ?? curve}` : ''
  const range = low === high ? String(low) : `${low} to ${high}, ${(low + high) / 2} on average`
  return `${range}${scaled}: ${yieldName(parts, given)}`
}

export function yieldName(parts: Parts, given: Yield): string {
  if (given.item) return parts.item.get(given.item)?.name ?? given.item
  if (given.table) return parts.table.get(given.table)?.name ?? given.table
  if (given.source) return parts.source.get(given.source)?.name ?? given.source
  const pool = given.pool
  if (!pool) return 'nothing'
  const tiers = pool.tiers.map((tier) => parts.tier.get(tier)?.name ?? tier).join(' or ')
  return [`any ${tiers || 'item'}`, ...pool.tags].join(', ')
}

export function lineName(parts: Parts, line: Line): string {
  return line.yields.map((given) => yieldName(parts, given)).join(' and ') || 'nothing'
}

/** A line of a table by what it gives; where another gives the same, by how many of it too, or by its place.
 * One that is gone by its id. */
export function nameOfLine(parts: Parts, table: Table | undefined, id: string): string {
  const lines: Line[] = table?.lines ?? []
  const line = lines.find((one) => one.id === id)
  if (!line) return id
  for (const told of [lineName, countedName]) {
    const name = told(parts, line)
    if (!lines.some((one) => one !== line && told(parts, one) === name)) return name
  }
  return `${lineName(parts, line)}, line ${lines.indexOf(line) + 1}`
}

const countedName = (parts: Parts, line: Line) =>
  line.yields
    .map((given) => `${quantityText(given.quantity)} ${yieldName(parts, given)}`)
    .join(' and ')

/** The tier that marks a line: its items' or pool's, where they share one. */
export function lineTier(parts: Parts, line: Line): string | null {
  const tiers = new Set<string>()
  for (const given of line.yields) {
    if (given.item) tiers.add(parts.item.get(given.item)?.tier ?? '')
    else if (given.pool?.tiers.length === 1) tiers.add(given.pool.tiers[0] ?? '')
    else return null
  }
  return tiers.size === 1 ? ([...tiers][0] ?? null) : null
}

export function itemByName(parts: Parts, name: string): Item | undefined {
  const wanted = name.trim().toLowerCase()
  return [...parts.item.values()].find((item) => item.name.toLowerCase() === wanted)
}

/** What a typed name yields: an item, another table, a source, or a stated nothing (null). */
export function yieldByName(parts: Parts, name: string): Partial<Yield> | null | undefined {
  const wanted = name.trim().toLowerCase()
  if (wanted === 'nothing' || wanted === '') return null
  const item = itemByName(parts, wanted)
  if (item) return { item: item.id }
  for (const table of parts.table.values())
    if (table.name.toLowerCase() === wanted) return { table: table.id }
  for (const source of parts.source.values())
    if (source.name.toLowerCase() === wanted) return { source: source.id }
  return undefined
}

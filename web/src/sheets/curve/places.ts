// What a curve scales: tiers, lines, nothing weights, drops, quantities, encounters, stats.
import type { Parts } from '@/game/parts'
import type { Sheet } from '@/game/store'
import { lineName } from '@/game/words'

export interface User {
  key: string
  name: string
  what: string
  sheet: Sheet
}

export function usersOf(parts: Parts, curve: string): User[] {
  const users: User[] = []
  const add = (name: string, what: string, sheet: Sheet) =>
    users.push({
      key: `${sheet.kind}/${sheet.id}/${name}/${what}/${users.length}`,
      name,
      what,
      sheet,
    })
  for (const tier of parts.tier.values())
    if (tier.curve === curve) add(tier.name, 'tier', { kind: 'items', id: 'catalogue' })
  for (const table of parts.table.values()) {
    const sheet: Sheet = { kind: 'table', id: table.id }
    if ('nothing_curve' in table && table.nothing_curve === curve) add(table.name, 'nothing', sheet)
    if (table.rolls.curve === curve) add(table.name, 'rolls', sheet)
    for (const line of table.lines) {
      if (line.curve === curve) add(`${lineName(parts, line)}, ${table.name}`, 'line', sheet)
      if (line.yields.some((given) => given.quantity.curve === curve))
        add(`${lineName(parts, line)}, ${table.name}`, 'quantity', sheet)
    }
  }
  for (const source of parts.source.values())
    for (const drop of source.drops) {
      const sheet: Sheet = { kind: 'source', id: source.id }
      const name = `${parts.table.get(drop.table)?.name}, ${source.name}`
      if (drop.curve === curve) add(name, 'drop', sheet)
      if (drop.times.curve === curve) add(name, 'times', sheet)
    }
  for (const band of parts.settings.depth.bands ?? [])
    if (band.encounters?.curve === curve)
      add(band.name, 'encounters', { kind: 'meets', id: 'here' })
  for (const item of parts.item.values())
    for (const [stat, range] of Object.entries(item.stats ?? {}))
      if (range.curve === curve) add(item.name, stat, { kind: 'item', id: item.id })
  return users
}

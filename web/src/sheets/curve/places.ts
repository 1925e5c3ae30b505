// What a curve scales: tiers, lines, nothing weights, drops, quantities, encounters, stats.
import type { Parts } from '@/game/parts'
import type { View } from '@/api/types'
import type { Sheet } from '@/game/store'
import { reachedFrom } from '@/game/targets'
import { nameOfLine } from '@/game/words'

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
      const name = `${nameOfLine(parts, table, line.id)}, ${table.name}`
      if (line.curve === curve) add(name, 'line', sheet)
      if (line.yields.some((given) => given.quantity.curve === curve)) add(name, 'quantity', sheet)
    }
  }
  for (const source of parts.source.values()) {
    const sheet: Sheet = { kind: 'source', id: source.id }
    if (source.pick_up?.curve === curve) add(source.name, 'picked up after', sheet)
    for (const drop of source.drops) {
      const name = `${parts.table.get(drop.table)?.name}, ${source.name}`
      if (drop.curve === curve) add(name, 'drop', sheet)
      if (drop.times.curve === curve) add(name, 'times', sheet)
    }
  }
  for (const route of parts.route.values())
    route.legs.forEach(({ times, visits }, at) => {
      if ((times ?? visits)?.curve === curve)
        add(`leg ${at + 1}, ${route.name}`, 'how often', { kind: 'route', id: route.id })
    })
  for (const band of parts.settings.depth.bands ?? [])
    if (band.encounters?.curve === curve)
      add(band.name, 'encounters', { kind: 'meets', id: 'here' })
  for (const item of parts.item.values())
    for (const [stat, range] of Object.entries(item.stats ?? {}))
      if (range.curve === curve) add(item.name, stat, { kind: 'item', id: item.id })
  return users
}

/** Whether a curve changes anything of what a view rolls. */
export function scales(parts: Parts, curve: string, view: View): boolean {
  const below = reachedFrom(parts, [view])
  if (usersOf(parts, curve).some(({ sheet }) => below.has(`${sheet.kind}/${sheet.id}`))) return true
  const tiers = new Set<string>()
  for (const tier of parts.tier.values()) if (tier.curve === curve) tiers.add(tier.id)
  if (!tiers.size) return false
  return [...parts.table.values()].some(
    (table) =>
      below.has(`table/${table.id}`) &&
      table.lines.some((line) =>
        line.yields.some(
          ({ item, pool }) =>
            tiers.has(parts.item.get(item ?? '')?.tier ?? '') ||
            (pool && (!pool.tiers?.length || pool.tiers.some((tier) => tiers.has(tier)))),
        ),
      ),
  )
}

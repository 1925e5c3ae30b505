// The items of a depth sheet as columns: their numbers by depth, and in which order they stand.
import type { DepthSheet, Item } from '@/api/types'
import type { Parts } from '@/game/parts'
import { figureOf, type Told } from './figures'

export interface Column {
  item: Item
  numbers: (number | null)[]
}

export type Order = 'here' | 'most' | 'first' | 'tier' | 'name'

export const ORDERS: Record<Order, string> = {
  here: 'most frequent here first',
  most: 'most frequent anywhere first',
  first: 'in the order they begin to fall',
  tier: 'by tier, highest first',
  name: 'by name',
}

export function columnsOf(
  parts: Parts,
  sheet: DepthSheet,
  told: Told,
  order: Order,
  depth: number,
): Column[] {
  return [...parts.item.values()]
    .filter((item) => sheet.items[item.id])
    .map((item) => ({ item, numbers: numbersOf(sheet, item, told) }))
    .sort(comparing(parts, sheet, order, sheet.depths.indexOf(depth)))
}

function numbersOf(sheet: DepthSheet, item: Item, told: Told): (number | null)[] {
  const { p_any, mean } = sheet.items[item.id] ?? { p_any: [], mean: [] }
  return p_any.map((p, row) => figureOf(p, mean[row] ?? 0, item.value, told))
}

type Comparing = (a: Column, b: Column) => number

/** Ties fall back on what is most frequent at the depth in view. */
function comparing(parts: Parts, sheet: DepthSheet, order: Order, row: number): Comparing {
  const means = (column: Column) => sheet.items[column.item.id]?.mean ?? []
  const here: Comparing = (a, b) => (means(b)[row] ?? 0) - (means(a)[row] ?? 0)
  const most = (column: Column) => Math.max(...means(column))
  const first = (column: Column) => {
    const found = means(column).findIndex((mean, at) => mean > 0 && isMet(sheet, at))
    return found < 0 ? Infinity : found
  }
  const tiers = [...parts.tier.keys()]
  const tier = (column: Column) => tiers.indexOf(column.item.tier)
  const by: Record<Order, Comparing> = {
    here,
    most: (a, b) => most(b) - most(a),
    first: (a, b) => first(a) - first(b) || here(a, b),
    tier: (a, b) => tier(b) - tier(a) || here(a, b),
    name: (a, b) => a.item.name.localeCompare(b.item.name),
  }
  return by[order]
}

export function isMet(sheet: DepthSheet, row: number): boolean {
  const depth = sheet.depths[row] ?? 0
  return depth >= sheet.met[0] && depth <= sheet.met[1]
}

/** Numbers with none where the source is not met. */
export function inMet(sheet: DepthSheet, numbers: (number | null)[]): (number | null)[] {
  return numbers.map((value, row) => (isMet(sheet, row) ? value : null))
}

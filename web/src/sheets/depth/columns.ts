// What stands in the columns of a table over depth (the items of a source, the sources of an item):
// their numbers by depth and by band, and in which order they stand.
import type { DepthSheet, TierView } from '@/api/types'
import type { Parts } from '@/game/parts'
import { figureOf, type Figure, type Known } from './figures'
import { mostOf } from '@/plots/ends'

export interface Column {
  id: string
  name: string
  /** Its place in the ladder of tiers, or 0. */
  rung: number
  colour: string
  numbers: (number | null)[]
  byBand: (number | null)[]
  /** Units an event by depth, 0 where there is nothing to meet; the order goes by them. */
  means: number[]
}

export type Order = 'here' | 'most' | 'first' | 'tier' | 'name'

const ORDERS: Record<Order, string> = {
  here: 'most frequent here first',
  most: 'most frequent anywhere first',
  first: 'in the order they begin to fall',
  tier: 'by tier, highest first',
  name: 'by name',
}

export function ordersOf(of: 'items' | 'sources'): Partial<Record<Order, string>> {
  const { tier, ...rest } = ORDERS
  return of === 'items' ? { ...rest, tier } : { ...rest, first: 'in the order they are met' }
}

/** The items of a source or table. */
export function itemColumns(
  parts: Parts,
  sheet: DepthSheet,
  figure: Figure,
  perHour: number,
): Column[] {
  const tiers = [...parts.tier.keys()]
  return [...parts.item.values()].flatMap((item) => {
    const known = sheet.items[item.id]
    if (!known) return []
    const telling = { figure, perHour, value: item.value }
    return {
      id: item.id,
      name: item.name,
      rung: tiers.indexOf(item.tier),
      colour: parts.tier.get(item.tier)?.colour ?? 'var(--color-ink)',
      numbers: byDepth(known).map((one) => figureOf(one, telling)),
      byBand: sheet.bands.map(({ items }) => {
        const band = items[item.id]
        return band ? figureOf(band, telling) : null
      }),
      means: inMet(sheet, known.mean).map((mean) => mean ?? 0),
    }
  })
}

/** The sources of an item, each unit worth `value`; of a tier, whose items differ, in units. */
export function sourceColumns(
  parts: Parts,
  view: TierView,
  figure: Figure,
  value: number,
): Column[] {
  return view.sources.map((source) => {
    const telling = { figure, perHour: source.per_hour, value }
    return {
      id: source.id,
      name: parts.source.get(source.id)?.name ?? source.id,
      rung: 0,
      colour: 'var(--color-ink)',
      numbers: byDepth(source).map((one) => (one.mean > 0 ? figureOf(one, telling) : null)),
      byBand: view.bands.map(({ sources }) => {
        const band = sources[source.id]
        return band && band.mean > 0 ? figureOf(band, telling) : null
      }),
      means: source.mean,
    }
  })
}

function byDepth(known: {
  p_any: number[]
  mean: number[]
  cv?: (number | null)[] | null | undefined
}): Known[] {
  return known.p_any.map((p_any, row) => ({
    p_any,
    mean: known.mean[row] ?? 0,
    cv: known.cv?.[row],
  }))
}

/** In an order, as of the row in view; ties fall back on what is most frequent there. */
export function inOrder(columns: Column[], order: Order, row: number): Column[] {
  type Comparing = (a: Column, b: Column) => number
  const here: Comparing = (a, b) => (b.means[row] ?? 0) - (a.means[row] ?? 0)
  const most = ({ means }: Column) => mostOf(means)
  const first = ({ means }: Column) => {
    const found = means.findIndex((mean) => mean > 0)
    return found < 0 ? Infinity : found
  }
  const by: Record<Order, Comparing> = {
    here,
    most: (a, b) => most(b) - most(a),
    first: (a, b) => first(a) - first(b) || here(a, b),
    tier: (a, b) => b.rung - a.rung || here(a, b),
    name: (a, b) => a.name.localeCompare(b.name),
  }
  return [...columns].sort(by[order])
}

export function isMet(sheet: DepthSheet, row: number): boolean {
  const depth = sheet.depths[row] ?? 0
  return depth >= sheet.met[0] && depth <= sheet.met[1]
}

/** Numbers with none where the source is not met. */
export function inMet<T>(sheet: DepthSheet, numbers: T[]): (T | null)[] {
  return numbers.map((value, row) => (isMet(sheet, row) ? value : null))
}

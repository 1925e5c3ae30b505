// Which figure of an item is told by depth, and how it is written.
import type { Wish } from '@/sheets/target/edits'
import { figures, percent } from '@/text/format'
import { leastOf, mostOf } from '@/plots/ends'

export type Figure = 'per_100' | 'one_in' | 'chance' | 'value' | 'cv' | 'hour'

export const FIGURES: Record<Figure, string> = {
  per_100: 'per 100',
  one_in: 'one in',
  chance: 'chance, %',
  value: 'worth an event',
  cv: 'cv',
  hour: 'per hour',
}

/** The figures there are where something takes no time, as a table, or has no one worth, as a tier. */
export function figuresWithout(missing: Figure[]): Partial<Record<Figure, string>> {
  const kept = Object.entries(FIGURES).filter(([figure]) => !missing.includes(figure as Figure))
  return Object.fromEntries(kept)
}

/** What the server says of one item at one depth, or in one band. */
export interface Known {
  p_any: number
  mean: number
  /** Only where it was asked for. */
  cv?: number | null | undefined
}

/** Of which figure is told what: how many events there are in an hour, what one of it is worth. */
export interface Telling {
  figure: Figure
  perHour: number
  value: number
}

/** A figure; null where there is none: a wait that never ends, or what nobody asked for. */
export function figureOf({ p_any, mean, cv }: Known, { figure, perHour, value }: Telling) {
  switch (figure) {
    case 'chance':
      return 100 * p_any
    case 'one_in':
      return p_any > 0 ? 1 / p_any : null
    case 'value':
      return value * mean
    case 'hour':
      return perHour * mean
    case 'cv':
      return cv ?? null
    case 'per_100':
      return 100 * mean
  }
}

/** A figure of an item or a tier as a target's; null of what no target is about. */
export function wishOf(
  figure: Figure,
  value: number,
  thing: { item: string | null; tier: string | null },
): Wish | null {
  switch (figure) {
    case 'chance':
      return { figure: 'chance', ...thing, wanted: value / 100 }
    case 'one_in':
      return { figure: 'one-in', ...thing, wanted: value }
    case 'hour':
      return { figure: 'per-hour', ...thing, wanted: value }
    case 'per_100':
      return { figure: 'mean', ...thing, wanted: value / 100 }
    default:
      return null
  }
}

/** A dot where there is nothing: it never falls, or nobody waits for it to. */
export function written(value: number | null | undefined, figure: Figure): string {
  if (value === null || value === undefined) return '·'
  if (value === 0) return figure === 'cv' ? '0' : '·'
  return figure === 'chance' ? percent(value / 100) : figures(value)
}

/** The least and the most of some numbers, nothing aside. */
export function rangeOf(numbers: (number | null)[]): [number, number] {
  const known = numbers.filter((one): one is number => one !== null && one > 0)
  return [leastOf(known), mostOf(known)]
}

/** How warm a number is in a range, 0 to 1; of waits the shortest is warmest. */
export function heatOf(value: number | null, figure: Figure, [least, most]: [number, number]) {
  if (!value) return 0
  return figure === 'one_in' ? least / value : value / most
}

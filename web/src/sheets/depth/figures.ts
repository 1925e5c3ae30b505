// Which figure of an item the depth sheet tells, and how it is written.
import type { DepthSheet } from '@/api/types'
import { figures, percent } from '@/ui/format'

export type Figure = 'per_100' | 'one_in' | 'chance' | 'value' | 'hour'

export const FIGURES: Record<Figure, string> = {
  per_100: 'per 100',
  one_in: 'one in',
  chance: 'chance, %',
  value: 'value each',
  hour: 'per hour',
}

/** The figure at each depth; null where there is none, for a wait that never ends. */
export function figureOf(
  sheet: DepthSheet,
  item: string,
  figure: Figure,
  value: number,
  perHour: number,
): (number | null)[] {
  const { p_any, mean } = sheet.items[item] ?? { p_any: [], mean: [] }
  if (figure === 'chance') return p_any.map((p) => 100 * p)
  if (figure === 'one_in') return p_any.map((p) => (p > 0 ? 1 / p : null))
  const factor = { per_100: 100, value, hour: perHour }[figure]
  return mean.map((m) => factor * m)
}

export function written(value: number | null | undefined, figure: Figure): string {
  if (value === null || value === undefined) return '–'
  if (value === 0) return figure === 'one_in' ? '–' : '·'
  return figure === 'chance' ? percent(value / 100) : figures(value)
}

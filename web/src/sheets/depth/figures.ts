// Which figure of an item the depth sheet tells, and how it is written.
import { figures, percent } from '@/ui/format'

export type Figure = 'per_100' | 'one_in' | 'chance' | 'value' | 'hour'

export const FIGURES: Record<Figure, string> = {
  per_100: 'per 100',
  one_in: 'one in',
  chance: 'chance, %',
  value: 'value each',
  hour: 'per hour',
}

/** The figures that a source, or a table, which takes no time, can tell. */
export function figuresOf(takesTime: boolean): Partial<Record<Figure, string>> {
  const { hour, ...rest } = FIGURES
  return takesTime ? { ...rest, hour } : rest
}

/** Which figure, and how many events there are in an hour. */
export interface Told {
  figure: Figure
  perHour: number
}

/** A figure from the chance of any and the mean; null where there is none: a wait that never ends. */
export function figureOf(p: number, mean: number, value: number, told: Told): number | null {
  switch (told.figure) {
    case 'chance':
      return 100 * p
    case 'one_in':
      return p > 0 ? 1 / p : null
    case 'value':
      return value * mean
    case 'hour':
      return told.perHour * mean
    case 'per_100':
      return 100 * mean
  }
}

export function written(value: number | null | undefined, figure: Figure): string {
  if (value === null || value === undefined) return '–'
  if (value === 0) return figure === 'one_in' ? '–' : '·'
  return figure === 'chance' ? percent(value / 100) : figures(value)
}

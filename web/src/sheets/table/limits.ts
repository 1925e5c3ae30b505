// The limits of a line or drop, as a form asks for them and reads them: purely, a draft to what it changes
// or to what stands in the way. What was not touched in the form is not said again.
import type { Drop, Line } from '@/api/types'
import { entered } from '@/text/format'
import { readRange } from '@/text/readers'
import { hundredth, readNumber } from '@/text/numbers'

export type Gated = Line | Drop
export type Guard = NonNullable<Line['guard']>

export interface LimitsDraft {
  limit: string
  after: string
  rise: string
  sure: string
  depths: string
  needs: string[]
  unless: string[]
}

export function limitsDraft(part: Gated): LimitsDraft {
  return {
    limit: 'limit' in part && part.limit ? String(part.limit) : '',
    after: part.guard ? String(part.guard.after) : '',
    rise: part.guard?.rise ? entered(part.guard.rise, 100) : '',
    sure: part.guard?.sure_at ? String(part.guard.sure_at) : '',
    depths: part.depths?.join('-') ?? '',
    needs: part.needs,
    unless: part.unless,
  }
}

/** What a draft changes of what the form was opened with, or why it cannot be. */
export function readLimits(
  draft: LimitsDraft,
  opened: LimitsDraft,
  scale: [number, number],
  isLine: boolean,
): Partial<Line> | string {
  const changed: Record<string, unknown> = {}
  const differs = (...keys: (keyof LimitsDraft)[]) =>
    keys.some((key) => String(draft[key]) !== String(opened[key]))
  if (isLine && differs('limit')) {
    const limit = readLimit(draft.limit)
    if (typeof limit === 'string') return limit
    changed.limit = limit
  }
  if (!isLine && differs('depths')) {
    const depths = readRange(draft.depths, scale)
    if (typeof depths === 'string') return depths
    changed.depths = depths
  }
  if (differs('after', 'rise', 'sure')) {
    const guard = readGuard(draft)
    if (typeof guard === 'string') return guard
    changed.guard = guard
  }
  if (differs('needs')) changed.needs = draft.needs
  if (differs('unless')) changed.unless = draft.unless
  return changed as Partial<Line>
}

const WORDS: Record<string, number> = { once: 1, twice: 2, 'three times': 3 }

/** "3", "once", "3 times"; null where there is none. */
function readLimit(text: string): number | null | string {
  const said = text.trim().toLowerCase()
  if (!said || said === 'no limit') return null
  const word = WORDS[said]
  if (word !== undefined) return word
  const value = readNumber(said.replace(/\s*(times|×)$/, ''))
  if (typeof value === 'string') return 'how many times at most: 3, or once'
  return Number.isInteger(value) && value >= 1 ? value : 'a limit is a whole number from 1 on'
}

function readGuard({ after, rise, sure }: LimitsDraft): Guard | null | string {
  const isEmpty = (text: string) => text.trim() === ''
  if ([after, rise, sure].every(isEmpty)) return null
  if (isEmpty(rise) && isEmpty(sure))
    return `what happens after ${after.trim()} misses? Say by how much it rises, or when it is sure`
  const [misses, by, at] = [
    isEmpty(after) ? 0 : readNumber(after),
    isEmpty(rise) ? 0 : readNumber(rise.replace('%', '')),
    isEmpty(sure) ? null : readNumber(sure),
  ]
  for (const value of [misses, by, at]) if (typeof value === 'string') return value
  return {
    after: misses,
    rise: hundredth(by as number),
    sure_at: at,
  } as Guard
}

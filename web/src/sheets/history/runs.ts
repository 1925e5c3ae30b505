// Changes by day, and edits alike one after the other as one: a weight that was typed ten times is one line.
import type { HistoryEntry } from '@/api/types'

export interface Run {
  first: HistoryEntry
  last: HistoryEntry
  many: number
}

const PAUSE = 10 * 60_000 // between edits of one run

/** Newest first, as they are given; days as they are here. */
export function byDay(changes: HistoryEntry[]): { day: string; runs: Run[] }[] {
  const days: { day: string; runs: Run[] }[] = []
  for (const change of changes) {
    const day = dayOf(change.at)
    if (days.at(-1)?.day !== day) days.push({ day, runs: [] })
    const runs = days.at(-1)?.runs ?? []
    const run = runs.at(-1)
    if (run && isAlike(run.first, change)) {
      run.first = change
      run.many += 1
    } else runs.push({ first: change, last: change, many: 1 })
  }
  return days
}

/** `before` is the earlier one. A mark ends a run: it stands for one revision. */
function isAlike(after: HistoryEntry, before: HistoryEntry): boolean {
  return (
    after.origin === 'edit' &&
    before.origin === 'edit' &&
    after.label === before.label &&
    after.page === before.page &&
    !before.mark &&
    JSON.stringify(after.things) === JSON.stringify(before.things) &&
    Date.parse(after.at) - Date.parse(before.at) < PAUSE
  )
}

function dayOf(at: string): string {
  return new Date(at).toLocaleDateString('en-GB', {
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    year: 'numeric',
  })
}

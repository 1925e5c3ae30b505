// Curves as entries of an edit: shared by name, or private to one line, drop or quantity.
import type { Curve, EntryIn } from '@/api/types'
import { freshId, type Parts } from './parts'

export function curveEntry(curve: Curve): EntryIn {
  return { kind: 'curve', id: curve.id, body: curve as unknown as EntryIn['body'] }
}

/** A curve that changes nothing yet. */
export function flatCurve(parts: Parts, name: string, isPrivate = false): Curve {
  const { from, to } = parts.settings.depth
  const ends = from < to ? [from, to] : [from]
  return {
    id: freshId(name, parts.curve),
    name,
    private: isPrivate,
    shape: 'line',
    points: ends.map((depth) => [depth, 1]),
  }
}

/** What stands for "a curve of its own" among the curves that can be chosen. */
export const OWN = '*own'

/** The curves that a place can choose: those that are shared, and its own. */
export function curvesFor(parts: Parts, now: string | null | undefined): Curve[] {
  return [...parts.curve.values()].filter((curve) => !curve.private || curve.id === now)
}

/**
 * The curve that a place has after a choice, and what else that changes: a private curve is made with
 * the choice and goes with the next one.
 */
export function chosenCurve(
  parts: Parts,
  now: string | null | undefined,
  choice: string,
  owner: string,
): { curve: string | null; entries: EntryIn[] } {
  const old = parts.curve.get(now ?? '')
  const gone: EntryIn[] =
    old?.private && choice !== now ? [{ kind: 'curve', id: old.id, body: null }] : []
  if (choice !== OWN) return { curve: choice || null, entries: gone }
  const made = flatCurve(parts, `${owner}, its own`, true)
  return { curve: made.id, entries: [curveEntry(made), ...gone] }
}

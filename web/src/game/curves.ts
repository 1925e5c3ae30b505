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
  const { curves, entries } = chosenCurves(parts, [now], [choice], owner)
  return { curve: curves[0] ?? null, entries }
}

/** The same for several places of one owner; a place that is no more had a curve `before`. */
export function chosenCurves(
  parts: Parts,
  before: (string | null | undefined)[],
  choices: string[],
  owner: string,
): { curves: (string | null)[]; entries: EntryIn[] } {
  const taken = new Map(parts.curve)
  const made: Curve[] = []
  const curves = choices.map((choice) => {
    if (choice !== OWN) return choice || null
    const curve = flatCurve({ ...parts, curve: taken }, `${owner}, its own`, true)
    taken.set(curve.id, curve)
    made.push(curve)
    return curve.id
  })
  const gone = before.flatMap((id): EntryIn[] =>
    id && parts.curve.get(id)?.private && !curves.includes(id)
      ? [{ kind: 'curve', id, body: null }]
      : [],
  )
  return { curves, entries: [...made.map(curveEntry), ...gone] }
}

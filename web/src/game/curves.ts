// Curves as entries of an edit: shared by name, or private to one line, drop or quantity.
import type { Curve, EntryIn } from '@/api/types'
import { freshId, type Parts } from './parts'
import { curvesIn, placesOf, withCurves } from './places'

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

/** The curve that a place has after a choice, and what else that changes: one of its own is made. */
export function chosenCurve(
  parts: Parts,
  choice: string,
  owner: string,
): { curve: string | null; entries: EntryIn[] } {
  const { curves, entries } = chosenCurves(parts, [choice], owner)
  return { curve: curves[0] ?? null, entries }
}

/** The same for several places of one owner. */
export function chosenCurves(
  parts: Parts,
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
  return { curves, entries: made.map(curveEntry) }
}

/** The edit that removes a curve and puts another where it was. */
export function replacedCurve(parts: Parts, gone: string, by: string): EntryIn[] {
  const placed = placesOf(parts)
    .filter(({ body }) => curvesIn(body).includes(gone))
    .map((place): EntryIn => {
      const body = withCurves(place.body, (id) => (id === gone ? by : id))
      return { ...place, body: body as EntryIn['body'] }
    })
  return [...placed, { kind: 'curve', id: gone, body: null }]
}

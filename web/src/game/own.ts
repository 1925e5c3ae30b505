// A curve that is private to one place stays with it: a copy of the place gets a copy of the curve, and
// the curve goes with the place.
import type { Curve, EntryIn } from '@/api/types'
import { curveEntry } from './curves'
import { freshId, withEntries, type Parts } from './parts'
import { curvesIn, placeBody, placesOf, withCurves } from './places'

/** The entries of an edit, with a curve of its own for every place that was copied from another, and
 * without those whose place it takes away. */
export function withOwnCurves(parts: Parts, entries: EntryIn[]): EntryIn[] {
  const after = withEntries(parts, entries)
  const made = new Map<string, Curve>()
  const apart = entries.map((entry) => {
    const ids = gained(parts, entry)
    return ids.length ? withItsOwn(after, entry, ids, made) : entry
  })
  return [...[...made.values()].map(curveEntry), ...apart, ...left(parts, after, entries)]
}

/** Private curves that nobody names after an edit, though before it somebody did. */
function left(parts: Parts, after: Parts, entries: EntryIn[]): EntryIn[] {
  const touched = entries.flatMap((entry) => curvesIn(bodyOf(parts, entry)))
  const maybe = [...new Set(touched)].filter((id) => after.curve.get(id)?.private)
  if (!maybe.length) return []
  const still = new Set(bodiesBut(after, null).flatMap(curvesIn))
  return maybe.filter((id) => !still.has(id)).map((id) => ({ kind: 'curve', id, body: null }))
}

/** Private curves that an entry names more often than what it takes the place of. */
function gained(parts: Parts, entry: EntryIn): string[] {
  const before = curvesIn(bodyOf(parts, entry))
  const count = (list: string[], id: string) => list.filter((one) => one === id).length
  const now = curvesIn(entry.body).filter((id) => parts.curve.get(id)?.private)
  return [...new Set(now)].filter((id) => count(now, id) > count(before, id))
}

/** One of the places that name a gained curve keeps it, unless it is another's. */
function withItsOwn(
  after: Parts,
  entry: EntryIn,
  ids: string[],
  made: Map<string, Curve>,
): EntryIn {
  const others = new Set(bodiesBut(after, entry).flatMap(curvesIn))
  const kept = new Set<string>()
  const body = withCurves(entry.body, (id) => {
    const curve = after.curve.get(id)
    if (!curve || !ids.includes(id)) return id
    if (!others.has(id) && !kept.has(id)) {
      kept.add(id)
      return id
    }
    const taken = { has: (other: string) => after.curve.has(other) || made.has(other) }
    const copy = { ...curve, id: freshId(curve.name, taken) }
    made.set(copy.id, copy)
    return copy.id
  })
  return { ...entry, body: body as EntryIn['body'] }
}

/** The bodies of everything but one that can name a curve which is private. */
function bodiesBut(parts: Parts, entry: EntryIn | null): unknown[] {
  const own = entry && bodyOf(parts, entry)
  return placesOf(parts)
    .map((place) => place.body)
    .filter((body) => body !== own)
}

const bodyOf = (parts: Parts, entry: EntryIn) => placeBody(parts, entry.kind, entry.id)

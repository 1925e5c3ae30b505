// What was changed, as entries of an edit.
import type { EntryIn } from '@/api/types'
import { KINDS, type Kind, type Parts } from './parts'
import { merged, type Json } from './sync/merge'

/** What makes one game of another. */
export function entriesBetween(before: Parts, after: Parts): EntryIn[] {
  const listed = KINDS.filter((kind) => before[kind] !== after[kind]).flatMap((kind) =>
    entriesOf(kind, [...before[kind].values()], [...after[kind].values()]),
  )
  if (before.settings === after.settings) return listed
  const body = after.settings as unknown as EntryIn['body']
  return [{ kind: 'settings', id: 'game', body }, ...listed]
}

/** Entries that were made of one game, as they come out on another: what was not touched is the other's. */
export function onNewest(seen: Parts, entries: EntryIn[], now: Parts): EntryIn[] {
  if (seen === now) return entries
  return entries.map((entry) => {
    const [was, is] = [seen, now].map((parts) => bodyOf(parts, entry.kind, entry.id))
    if (was === is) return entry
    const { body } = merged(was ?? null, entry.body as Json, is ?? null, 'mine')
    return { ...entry, body: body as EntryIn['body'] }
  })
}

export function bodyOf(parts: Parts, kind: string, id: string): Json {
  if (kind === 'settings') return parts.settings as unknown as Json
  return (parts[kind as Kind].get(id) ?? null) as Json
}

/** What changed between two lists of entities: bodies, removals, and places. */
export function entriesOf(
  kind: Kind,
  before: { id: string }[],
  after: { id: string }[],
): EntryIn[] {
  const old = new Map(before.map((part) => [part.id, part]))
  const kept = new Set(after.map((part) => part.id))
  const entries: EntryIn[] = before
    .filter((part) => !kept.has(part.id))
    .map((part) => ({ kind, id: part.id, body: null }))
  // As the list stands after each edit: whatever is put in front of something finds it there.
  const order = before.filter((part) => kept.has(part.id)).map((part) => part.id)
  after.forEach((part, at) => {
    const isNew = !old.has(part.id)
    const next = order[at]
    const moved = next !== undefined && next !== part.id
    if (!isNew && moved) order.splice(order.indexOf(part.id), 1)
    if (isNew || moved) order.splice(at, 0, part.id)
    if (isNew || moved || old.get(part.id) !== part)
      entries.push({
        kind,
        id: part.id,
        body: part as unknown as EntryIn['body'],
        ...(moved ? { before: next } : {}),
      })
  })
  return entries
}

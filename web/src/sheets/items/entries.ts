// Lists of things as edits.
import type { EntryIn } from '@/api/types'
import type { Kind } from '@/game/parts'

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

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
  const order = before.filter((part) => kept.has(part.id)).map((part) => part.id)
  after.forEach((part, at) => {
    const isNew = !old.has(part.id)
    const next = after[at + 1]?.id
    // A new part goes to the end of the order; then see whether it stands where it should.
    if (isNew) order.push(part.id)
    const moved = order[at] !== part.id
    if (moved) order.splice(at, 0, ...order.splice(order.indexOf(part.id), 1))
    if (isNew || moved || old.get(part.id) !== part)
      entries.push({
        kind,
        id: part.id,
        body: part as unknown as EntryIn['body'],
        ...(moved && next && old.has(next) ? { before: next } : {}),
      })
  })
  return entries
}

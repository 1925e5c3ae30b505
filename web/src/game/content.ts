// What a game holds, as a short word: the same for a draft, for the edit that it becomes and for the revision
// that the edit becomes. So what was asked of one of them is not asked again of the next.
import type { EntryIn } from '@/api/types'

export const contentOfRevision = (revision: number) => `revision ${revision}`

/** The content after edits that go together. */
export function contentAfter(content: string, entries: EntryIn[]): string {
  if (!entries.length) return content
  const told = entries.map(({ kind, id, body, before }) => [kind, id, body, before ?? null])
  return digest(content + JSON.stringify(told))
}

/** 106 bits of a text, mixed twice (as in MurmurHash3's last step): two texts do not meet by accident. */
function digest(text: string): string {
  return mixed(text, 0x9e3779b9) + mixed(text, 0x7f4a7c15)
}

function mixed(text: string, seed: number): string {
  let [high, low] = [0xdeadbeef ^ seed, 0x41c6ce57 ^ seed]
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at)
    high = Math.imul(high ^ code, 0x9e3779b1)
    low = Math.imul(low ^ code, 0x5f356495)
  }
  high = Math.imul(high ^ (high >>> 16), 0x85ebca6b) ^ Math.imul(low ^ (low >>> 13), 0xc2b2ae35)
  low = Math.imul(low ^ (low >>> 16), 0x85ebca6b) ^ Math.imul(high ^ (high >>> 13), 0xc2b2ae35)
  return (4294967296 * (0x1fffff & low) + (high >>> 0)).toString(36)
}

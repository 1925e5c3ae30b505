// Edits of stalls.
import type { EntryIn, Stall } from '@/api/types'
import { commit } from '@/game/sync'

export function stallEntry(stall: Stall): EntryIn {
  return { kind: 'stall', id: stall.id, body: stall as unknown as EntryIn['body'] }
}

export const saveStall = (label: string, stall: Stall) =>
  commit(`${label}, ${stall.name}`, [stallEntry(stall)])

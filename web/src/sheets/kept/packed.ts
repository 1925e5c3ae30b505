// A packing in words.
import type { Parts } from '@/game/parts'

export interface Packed {
  stacks: Stack[]
  lost: Record<string, number>
  purse: Record<string, number>
}

export interface Stack {
  item: string
  column: number
  row: number
  turned: boolean
  count: number
  width: number
  height: number
}

export function packedWords(parts: Parts, packing: Packed): string {
  const counts = new Map<string, number>()
  for (const stack of packing.stacks)
    counts.set(stack.item, (counts.get(stack.item) ?? 0) + stack.count)
  const fell = listed(parts, [...counts, ...Object.entries(packing.purse)]) || 'nothing'
  const lost = listed(parts, Object.entries(packing.lost))
  return lost ? `${fell}; does not fit: ${lost}` : fell
}

export function listed(parts: Parts, counts: [string, number][]): string {
  return counts
    .map(([item, count]) => (parts.item.get(item)?.name ?? item) + (count > 1 ? ` ×${count}` : ''))
    .join(', ')
}

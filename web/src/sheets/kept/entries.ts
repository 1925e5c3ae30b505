// Edits of what items do to properties.
import type { Item } from '@/api/types'

/** What an item does to a property; null takes it off. */
export function withEffect(
  item: Item,
  property: string,
  effect: { amount: number; units: number } | null,
): Item {
  const others = (item.effects ?? []).filter((one) => one.property !== property)
  return { ...item, effects: effect ? [...others, { property, ...effect }] : others }
}

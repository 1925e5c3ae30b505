// Edits of sets, properties and of what items do to properties.
import type { EntryIn, Item, ItemSet, Property } from '@/api/types'
import { commit } from '@/game/sync'

export function setEntry(one: ItemSet): EntryIn {
  return { kind: 'set', id: one.id, body: one as unknown as EntryIn['body'] }
}

export function propertyEntry(one: Property): EntryIn {
  return { kind: 'property', id: one.id, body: one as unknown as EntryIn['body'] }
}

export function itemEntry(item: Item): EntryIn {
  return { kind: 'item', id: item.id, body: item as unknown as EntryIn['body'] }
}

export const saveSet = (label: string, one: ItemSet) =>
  commit(`${label}, ${one.name}`, [setEntry(one)])

export const saveProperty = (label: string, one: Property) =>
  commit(`${label}, ${one.name}`, [propertyEntry(one)])

/** What an item does to a property; null takes it off. */
export function withEffect(
  item: Item,
  property: string,
  effect: { amount: number; units: number } | null,
): Item {
  const others = (item.effects ?? []).filter((one) => one.property !== property)
  return { ...item, effects: effect ? [...others, { property, ...effect }] : others }
}

// What owning an item does to the properties of whoever has it.
import type { Item } from '@/api/types'
import { show, useGame } from '@/game/store'
import { changeEffect, EffectAmounts } from '@/sheets/kept/EffectAmounts'

export function Effects({ item }: { item: Item }) {
  const properties = [...useGame((state) => state.parts).property.values()]
  const effects = item.effects ?? []
  const free = properties.filter((one) => !effects.some((effect) => effect.property === one.id))
  if (!properties.length) return null
  return (
    <section aria-label="what it does" className="mt-3">
      <p className="mb-0.5 flex items-baseline justify-between">
        <span className="head">Whoever owns it</span>
        <span className="label">{effects.length > 0 && 'each unit, up to so many'}</span>
      </p>
      {effects.map(({ property }) => (
        <p key={property} className="flex items-baseline gap-2">
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: 'property', id: property })}
          >
            {properties.find((one) => one.id === property)?.name}
          </button>
          <EffectAmounts item={item} property={property} />
        </p>
      ))}
      {free.map((one) => (
        <button
          key={one.id}
          type="button"
          className="label mr-3 hover:text-ink"
          onClick={() => void changeEffect(item.id, one.id, { amount: 5, units: 1 })}
        >
          + {one.name}
        </button>
      ))}
    </section>
  )
}

// What one unit of an item adds to a property, and of how many units at most: read and typed in place.
import type { Item } from '@/api/types'
import { change } from '@/game/edit'
import { EditText } from '@/ui/EditText'
import { entered, signed } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { withEffect } from './entries'

/** What an item adds to a property, other than before; null takes it off. */
export const changeEffect = (item: string, ...[property, effect]: Effect) =>
  change('item', item, 'what it adds', (now) => withEffect(now, property, effect))

type Effect = [property: string, effect: { amount: number; units: number } | null]

export function EffectAmounts({ item, property }: { item: Item; property: string }) {
  const effect = (item.effects ?? []).find((one) => one.property === property)
  if (!effect) return null
  const { amount, units = 1 } = effect
  return (
    <>
      <span className="ml-auto whitespace-nowrap">
        <EditText
          label={`what ${item.name} adds`}
          text={entered(amount)}
          show={signed(amount)}
          className="choice num text-ink"
          inputClass="num w-16"
          onCommit={(text) => {
            const typed = typedNumber(text)
            return typed === null
              ? { message: 'a number' }
              : changeEffect(item.id, property, { amount: typed, units })
          }}
        />{' '}
        <span className="text-muted">×</span>{' '}
        <EditText
          label={`of how many ${item.name} at most`}
          text={String(units)}
          className="choice num text-ink"
          inputClass="num w-12"
          onCommit={(text) => {
            const typed = typedNumber(text)
            return typed === null || !Number.isInteger(typed) || typed < 1
              ? { message: 'a whole number from 1' }
              : changeEffect(item.id, property, { amount, units: typed })
          }}
        />
      </span>
      <button
        type="button"
        aria-label={`${item.name} adds nothing`}
        className="px-0.5 text-muted hover:text-bad"
        onClick={() => void changeEffect(item.id, property, null)}
      >
        ×
      </button>
    </>
  )
}

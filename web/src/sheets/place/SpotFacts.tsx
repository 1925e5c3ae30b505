// The spot that is chosen: its name, and the kinds that may lie there.
import type { Place } from '@/api/types'
import { change } from '@/game/edit'
import { EditText } from '@/ui/EditText'

export function SpotFacts({
  place,
  spot,
  onGone,
}: {
  place: Place
  spot: string | null
  onGone: () => void
}) {
  const one = place.spots.find((other) => other.id === spot)
  if (!one) return null
  const save = (label: string, changed: Partial<typeof one>) =>
    change('place', place.id, label, ({ spots }) => {
      const mine = spots.find((other) => other.id === spot)
      if (mine) Object.assign(mine, changed)
    })
  return (
    <p className="pt-1 text-note text-muted">
      Spot{' '}
      <EditText
        label="name of the spot"
        text={one.name || one.id}
        className="choice text-ink"
        onCommit={(name) => save('name of a spot', { name })}
      />{' '}
      takes{' '}
      <EditText
        label="kinds of the spot"
        text={one.kinds.join(', ') || 'any kind'}
        className="choice text-ink"
        inputClass="w-56"
        onCommit={(text) =>
          save('kinds of a spot', {
            kinds: /^\s*(any kind|any|)\s*$/i.test(text)
              ? []
              : text
                  .split(',')
                  .map((kind) => kind.trim())
                  .filter(Boolean),
          })
        }
      />{' '}
      <button
        type="button"
        className="label hover:text-bad"
        onClick={() => {
          onGone()
          void change('place', place.id, 'a spot taken out', (now) => {
            now.spots = now.spots.filter((other) => other.id !== spot)
          })
        }}
      >
        take it out
      </button>
    </p>
  )
}

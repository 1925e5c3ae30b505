// What a player sets out with: a bag of so many cells, and money in the purse.
import type { Route } from '@/api/types'
import { useGame } from '@/game/store'
import { EditText } from '@/ui/EditText'
import { entered } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { HINTS, readCells } from '@/text/readers'
import { change } from '@/game/edit'

export function Carried({ route }: { route: Route }) {
  const parts = useGame((state) => state.parts)
  const money = [...parts.item.values()].filter((item) => item.currency)
  const purse = route.purse ?? {}
  return (
    <>
      a bag of{' '}
      <EditText
        label="cells of the bag"
        hint={HINTS.cells}
        text={route.bag ? route.bag.join(' × ') : 'no end'}
        className="choice num text-ink"
        onCommit={(text) => {
          if (/^\s*(no|$)/i.test(text)) return change('route', route.id, 'bag', { bag: null })
          const bag = readCells(text)
          return typeof bag === 'string'
            ? { message: `${bag}; or no end` }
            : change('route', route.id, 'bag', { bag })
        }}
      />
      {route.bag && ' cells'}
      {money.map((item) => (
        <span key={item.id}>
          ,{' '}
          <EditText
            label={`${item.name} in the purse`}
            text={entered(purse[item.id] ?? 0)}
            className="choice num text-ink"
            inputClass="num w-20"
            onCommit={(text) => {
              const units = typedNumber(text)
              if (units === null || !Number.isInteger(units) || units < 0)
                return { message: 'a whole number from 0' }
              const others = Object.entries(purse).filter(([other]) => other !== item.id)
              const own: [string, number][] = units ? [[item.id, units]] : []
              return change('route', route.id, 'purse', {
                purse: Object.fromEntries([...others, ...own]),
              })
            }}
          />{' '}
          {item.name}
        </span>
      ))}
    </>
  )
}

// Money: what comes in and what can be spent an hour, band by band.
import type { Overview } from '@/api/types'
import { setDepth, show, useGame } from '@/game/store'
import { figures, whole } from '@/text/format'

export function Money({ data }: { data: Overview }) {
  const parts = useGame((state) => state.parts)
  const { money, sales, stalls } = data.money
  const bands = parts.settings.depth.bands ?? []
  if (!money.length)
    return (
      <section aria-label="money" className="pt-4">
        <h2 className="head pb-1">Money</h2>
        <p className="text-muted">No item is money. An item’s sheet makes it that.</p>
      </section>
    )
  const taken = stalls.reduce((sum, one) => sum + one.an_hour, 0)
  return (
    <section aria-label="money" className="pt-4">
      <h2 className="head pb-1">Money</h2>
      {money.map((one) => {
        const most = Math.max(0, ...Object.values(one.income))
        const name = parts.item.get(one.item)?.name ?? one.item
        return (
          <div key={one.item} className="pb-2">
            <button
              type="button"
              className="text-left hover:bg-gold-wash"
              onClick={() => show({ kind: 'item', id: one.item })}
            >
              <span className="name text-body">{name}</span>{' '}
              <span className="text-muted">an hour, as it is met</span>
            </button>
            {bands.map((band) => {
              const income = one.income[band.id]
              if (income === undefined) return null
              return (
                <button
                  key={band.id}
                  type="button"
                  className="grid w-full grid-cols-[96px_1fr_60px] items-center gap-2 text-left text-note hover:bg-gold-wash"
                  onClick={() => {
                    setDepth(band.from)
                    show({ kind: 'meets', id: 'here' })
                  }}
                >
                  <span className="name truncate">{band.name}</span>
                  <span className="h-2 bg-sunk">
                    <span
                      className="block h-full bg-gold"
                      style={{ width: `${most > 0 ? (100 * income) / most : 0}%` }}
                    />
                  </span>
                  <span className="num text-right">{figures(income)}</span>
                </button>
              )
            })}
            {one.parcels.map((parcel) => (
              <p key={parcel.source} className="text-note text-muted">
                <button
                  type="button"
                  className="name text-ink hover:bg-gold-wash"
                  onClick={() => show({ kind: 'source', id: parcel.source })}
                >
                  {parts.source.get(parcel.source)?.name ?? parcel.source}
                </button>{' '}
                costs <span className="num">{whole(parcel.price)}</span>
                {parcel.hours === null
                  ? ', which nothing that is met brings'
                  : `: ${figures(60 * parcel.hours)} minutes of the best band`}
              </p>
            ))}
            <p className="text-note">{pile(most, taken, one.parcels.length)}</p>
          </div>
        )
      })}
      {stalls.map((one) => (
        <p key={one.stall} className="text-note text-muted">
          All goods of{' '}
          <button
            type="button"
            className="name text-ink hover:bg-gold-wash"
            onClick={() => show({ kind: 'stall', id: one.stall })}
          >
            {parts.stall.get(one.stall)?.name ?? one.stall}
          </button>{' '}
          cost <span className="num">{figures(one.an_hour)}</span> an hour
        </p>
      ))}
      {sales && (
        <p className="text-note text-muted">
          Everything else, sold for <span className="num">{figures(100 * sales.share)}</span> % of
          its worth, brings up to{' '}
          <span className="num">{figures(Math.max(0, ...Object.values(sales.income)))}</span> an
          hour.
        </p>
      )}
    </section>
  )
}

/** Whether it piles up: where there is nothing without end to spend it on, and more comes than stalls take. */
function pile(income: number, taken: number, parcels: number): string {
  if (income <= 0) return 'None of it comes in by what is met.'
  if (parcels > 0) return 'It can always be spent: parcels are sold without end.'
  if (income > taken) return `It piles up: stalls take at most ${figures(taken)} an hour.`
  return 'Stalls can take all that comes in.'
}

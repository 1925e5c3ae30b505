// Along a route that is done again and again: how much of the catalogue players come to own.
import { useState } from 'react'
import { useCollection } from '@/game/queries'
import type { Collection as Owned } from '@/api/types'
import { show, useGame } from '@/game/store'
import { figures, percent } from '@/text/format'
import { Choice } from '@/ui/Choice'
import { Pending } from '@/ui/Pending'

export function Collection() {
  const parts = useGame((state) => state.parts)
  const [chosen, setChosen] = useState<string | null>(null)
  const routes = [...parts.route.values()].filter((route) => route.legs.length)
  const route = routes.find((one) => one.id === chosen) ?? routes[0]
  return (
    <section aria-label="collection" className="pt-4">
      <h2 className="head pb-1">Collection</h2>
      {route ? (
        <>
          <p className="text-muted">
            <Choice
              label="along which route"
              value={route.id}
              options={Object.fromEntries(routes.map((one) => [one.id, one.name]))}
              onChange={setChosen}
            />{' '}
            again and again
          </p>
          <Told route={route.id} />
        </>
      ) : (
        <p className="text-muted">
          No route yet: a route says how a player goes through the game, and so what they come to
          own.
        </p>
      )}
    </section>
  )
}

function Told({ route }: { route: string }) {
  const answer = useCollection(route)
  if (!answer.data) return <Pending of={answer} what="what players own" />
  return <Runs data={answer.data} />
}

function Runs({ data }: { data: Owned }) {
  const parts = useGame((state) => state.parts)
  const player = parts.settings.words?.player ?? 'player'
  const all = parts.item.size
  return (
    <>
      {data.runs.map((one) => (
        <div key={one.runs} className="grid grid-cols-[60px_1fr_92px] items-center gap-2 text-note">
          <span>
            <span className="num">{one.runs}</span> {one.runs === 1 ? 'run' : 'runs'}
          </span>
          <span
            className="relative h-2 bg-sunk"
            title={`${figures(one.owned)} different items on average; ${one.by_half} that half of all ${player}s own`}
          >
            <span
              className="absolute inset-y-0 left-0 bg-verdigris"
              style={{ width: `${(100 * one.by_half) / Math.max(1, all)}%` }}
            />
          </span>
          <span className="num text-right">
            {one.by_half} of {all}
          </span>
        </div>
      ))}
      <p className="text-note text-muted">
        items that half of all {player}s own by then,{' '}
        {data.method === 'exact' ? (
          'exact'
        ) : (
          <>
            played by <span className="num">{data.players}</span> {player}s (±
            <span className="num">{percent(2 * data.error)}</span> % of each item’s share)
          </>
        )}
        {data.last && (
          <>
            ; the last of those that come is{' '}
            <button
              type="button"
              className="name text-ink hover:bg-gold-wash"
              onClick={() => show({ kind: 'item', id: data.last ?? '' })}
            >
              {parts.item.get(data.last)?.name}
            </button>
          </>
        )}
      </p>
    </>
  )
}

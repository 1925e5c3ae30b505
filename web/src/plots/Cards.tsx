// A deck, card by card: those still in are filled, those the tray's player has drawn are empty.
import type { Tier } from '@/api/types'

export interface Pile {
  id: string
  name: string
  copies: number
  left: number
  tier: Tier | undefined
}

const MOST_DRAWN = 160

export function Cards({ piles }: { piles: Pile[] }) {
  const all = piles.reduce((sum, pile) => sum + pile.copies, 0)
  const left = piles.reduce((sum, pile) => sum + pile.left, 0)
  return (
    <div className="py-1.5 text-small text-muted" aria-label="cards of the deck">
      {all <= MOST_DRAWN && (
        <div className="flex flex-wrap gap-x-2 gap-y-1">
          {piles.map((pile) => (
            <span
              key={pile.id}
              className="flex gap-[2px]"
              title={`${pile.name}: ${pile.left} of ${pile.copies} left`}
            >
              {Array.from({ length: pile.copies }, (_, at) => (
                <Card key={at} tier={pile.tier} drawn={at >= pile.left} />
              ))}
            </span>
          ))}
        </div>
      )}
      <span className="num text-ink">{left}</span> of <span className="num text-ink">{all}</span>{' '}
      cards left
      {left < all ? ' after the rolls in the tray' : ''}
    </div>
  )
}

function Card({ tier, drawn }: { tier: Tier | undefined; drawn: boolean }) {
  const colour = tier?.colour ?? 'var(--color-ghost)'
  return (
    <span
      className="inline-block h-[13px] w-[9px] rounded-[1.5px] border"
      style={{
        borderColor: colour,
        background: drawn ? 'transparent' : colour,
        opacity: drawn ? 0.5 : 0.85,
      }}
    />
  )
}

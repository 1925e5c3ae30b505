// The bag of one player of a route, where it holds the most, with what stayed behind.
import { Pending } from '@/ui/Pending'
import { useState } from 'react'
import { useBag } from '@/game/queries'
import { useGame } from '@/game/store'
import { PackingButton } from './Packing'
import { listed, packedWords } from './packed'

export function BagDrawn({ route, depths }: { route: string; depths: number[] }) {
  const parts = useGame((state) => state.parts)
  const [player, setPlayer] = useState(0)
  const bag = useBag(route, player)
  const { data } = bag
  if (!data) return <Pending of={bag} what="the bag" />
  const { words } = parts.settings
  const lost = Object.entries(data.lost).sort((a, b) => b[1] - a[1])
  const at = (stop: number) => `${words?.depth ?? 'depth'} ${depths[stop] ?? ''}`
  return (
    <div className="py-2 text-note">
      <p className="label mb-1">
        the bag of {words?.player ?? 'player'} <span className="num">{player}</span>, at the end of
        stop {data.stop + 1}
      </p>
      <PackingButton
        label={`The bag of ${words?.player ?? 'player'} ${player}: ${packedWords(parts, data)}`}
        cells={data.cells}
        packing={data}
        onAnother={(by) => setPlayer((now) => Math.max(0, now + by))}
      />
      {data.left_at !== null && (
        <p className="mt-1 text-muted">
          Full at stop {data.left_at + 1}, {at(data.left_at)}; left behind:{' '}
          {listed(parts, lost.slice(0, 6))}
          {lost.length > 6 && `, and ${lost.length - 6} more`}
        </p>
      )}
    </div>
  )
}

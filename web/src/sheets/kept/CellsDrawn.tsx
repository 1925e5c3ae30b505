// A container's cells with one opening packed to scale, what did not fit beside it, and how often that happens.
import { Pending } from '@/ui/Pending'
import { useState } from 'react'
import { useCells } from '@/game/queries'
import { useGame } from '@/game/store'
import { Hold } from '@/sheets/target/Hold'
import { figures, percent, whole } from '@/text/format'
import { PackingButton } from './Packing'
import { packedWords } from './packed'

export function CellsDrawn({ source }: { source: string }) {
  const parts = useGame((state) => state.parts)
  const [opening, setOpening] = useState(0)
  const cells = useCells(source, opening)
  const { data } = cells
  if (!data) return <Pending of={cells} what="what fits" />
  const another = (by: number) => setOpening((now) => Math.max(0, Math.min(9999, now + by)))
  return (
    <section
      aria-label="what fits"
      className="flex flex-wrap items-start gap-5 border-b border-hair py-2"
    >
      <PackingButton
        label={`Opening ${opening + 1}, packed: ${packedWords(parts, data.packing)}`}
        cells={data.cells}
        packing={data.packing}
        onAnother={another}
      />
      <div className="min-w-[220px] flex-1 text-note">
        <p className="text-body">
          {data.fits >= 1 ? (
            <>
              Everything fits in all of <b className="num">{whole(data.players)}</b> openings
            </>
          ) : (
            <>
              Everything fits in{' '}
              <Hold wish={{ figure: 'fits', wanted: data.fits }}>{percent(data.fits)}&#8239;%</Hold>{' '}
              of openings
              <span className="num text-muted"> ±{figures(196 * data.fits_error, 2)}</span>; worth{' '}
              <b className="num">{figures(data.lost_worth)}</b> of{' '}
              <span className="num">{figures(data.received_worth)}</span> is lost
            </>
          )}
          , by <b className="num">{figures(data.used.mean)}</b> of {data.cells[0] * data.cells[1]}{' '}
          cells on average, 95&#8239;% by <b className="num">{figures(data.used.p95)}</b> or fewer.
        </p>
        {Object.keys(data.items).length > 0 && (
          <p className="text-muted">
            Lost an opening:{' '}
            {Object.entries(data.items)
              .sort((a, b) => b[1] - a[1])
              .slice(0, 4)
              .map(([item, units]) => `${parts.item.get(item)?.name ?? item} ${figures(units, 2)}`)
              .join(', ')}
          </p>
        )}
        <p className="text-muted">
          Opening <span className="num">{opening + 1}</span>: {packedWords(parts, data.packing)}
        </p>
      </div>
    </section>
  )
}

// A container's cells with one opening packed to scale, what did not fit beside it, and how often that happens.
import { useState, type KeyboardEvent } from 'react'
import { useCells } from '@/api/queries'
import type { CellsOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { figures, percent, whole } from '@/ui/format'

const CELL = 22

export function CellsDrawn({ source }: { source: string }) {
  const parts = useGame((state) => state.parts)
  const [opening, setOpening] = useState(0)
  const { data, error } = useCells(source, opening)
  if (error) return <p className="py-1 text-note text-bad">{error.message}</p>
  if (!data) return null
  const another = (by: number) => setOpening((now) => Math.max(0, Math.min(9999, now + by)))
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'r' || event.key === 'ArrowRight') another(1)
    else if (event.key === 'ArrowLeft') another(-1)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <section
      aria-label="what fits"
      className="flex flex-wrap items-start gap-5 border-b border-hair py-2"
    >
      <button
        type="button"
        aria-label={`Opening ${opening + 1}, packed: ${spoken(parts, data)}. R for another`}
        className="shrink-0 cursor-pointer"
        title="another opening: R"
        onClick={() => another(1)}
        onKeyDown={onKeyDown}
      >
        <Packing data={data} parts={parts} />
      </button>
      <div className="min-w-[220px] flex-1 text-note">
        <p className="text-body">
          {data.fits >= 1 ? (
            <>
              Everything fits in all of <b className="num">{whole(data.players)}</b> openings
            </>
          ) : (
            <>
              Everything fits in <b className="num">{percent(data.fits)}&#8239;%</b> of openings
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
          Opening <span className="num">{opening + 1}</span>: {spoken(parts, data)}
        </p>
      </div>
    </section>
  )
}

function Packing({ data, parts }: { data: CellsOut; parts: Parts }) {
  const [columns, rows] = data.cells
  const size = Math.min(CELL, 360 / columns, 160 / rows)
  return (
    <svg
      width={columns * size + 1}
      height={rows * size + 1}
      aria-hidden
      className="block bg-raised"
    >
      {Array.from({ length: columns + 1 }, (_, at) => (
        <line
          key={`c${at}`}
          x1={at * size + 0.5}
          x2={at * size + 0.5}
          y1="0"
          y2={rows * size}
          stroke="var(--color-hair)"
        />
      ))}
      {Array.from({ length: rows + 1 }, (_, at) => (
        <line
          key={`r${at}`}
          y1={at * size + 0.5}
          y2={at * size + 0.5}
          x1="0"
          x2={columns * size}
          stroke="var(--color-hair)"
        />
      ))}
      {data.packing.stacks.map((stack, at) => {
        const [wide, high] = stack.turned
          ? [stack.height, stack.width]
          : [stack.width, stack.height]
        const item = parts.item.get(stack.item)
        const tier = parts.tier.get(item?.tier ?? '')
        return (
          <g key={at} transform={`translate(${stack.column * size},${stack.row * size})`}>
            <title>{`${item?.name ?? stack.item} ×${stack.count}${stack.turned ? ', turned' : ''}`}</title>
            <rect
              x="1.5"
              y="1.5"
              width={wide * size - 2}
              height={high * size - 2}
              rx="2"
              fill={tier?.colour ?? 'var(--color-muted)'}
              fillOpacity="0.28"
              stroke={tier?.colour ?? 'var(--color-muted)'}
            />
            <text
              x={(wide * size) / 2}
              y={(high * size) / 2 + 3.5}
              textAnchor="middle"
              fontSize={Math.min(10, size / 2)}
              fill="var(--color-ink)"
              className="num"
            >
              {stack.count > 1 ? stack.count : (item?.name ?? stack.item).slice(0, 1)}
            </text>
          </g>
        )
      })}
    </svg>
  )
}

/** An opening in words. */
function spoken(parts: Parts, { packing }: CellsOut): string {
  const named = (item: string) => parts.item.get(item)?.name ?? item
  const counts = new Map<string, number>()
  for (const stack of packing.stacks)
    counts.set(stack.item, (counts.get(stack.item) ?? 0) + stack.count)
  const listed = [...counts, ...Object.entries(packing.purse)].map(
    ([item, count]) => named(item) + (count > 1 ? ` ×${count}` : ''),
  )
  const lost = Object.entries(packing.lost).map(
    ([item, count]) => named(item) + (count > 1 ? ` ×${count}` : ''),
  )
  const fell = listed.join(', ') || 'nothing'
  return lost.length ? `${fell}; does not fit: ${lost.join(', ')}` : fell
}

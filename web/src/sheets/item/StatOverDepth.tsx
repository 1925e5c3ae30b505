// One stat of an item at every depth: its range beside those of other tiers, and how often it beats them.
import type { Item, ItemView } from '@/api/types'
import { useGamePart } from '@/game/store'
import { shownDepths, useDepthScale } from '@/plots/DepthFrame'
import { DepthRanges } from '@/plots/DepthRanges'
import { DepthTable } from '@/plots/DepthTable'
import { figures, percent } from '@/text/format'
import { TierMark } from '@/ui/Marks'

export function StatOverDepth({ view, item, stat }: { view: ItemView; item: Item; stat: string }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const scale = useDepthScale()
  const ends = view.stats[stat]
  if (!ends) return null
  const colour = (of: Item | undefined) =>
    parts.tier.get(of?.tier ?? '')?.colour ?? 'var(--color-ink)'
  const rivals = view.rivals
    .filter((rival) => rival.stat === stat)
    .map((rival) => ({ ...rival, other: parts.item.get(rival.item) }))
  const shown = new Set(shownDepths(scale, depth))
  return (
    <div className="flex shrink-0 gap-2">
      <DepthRanges
        scale={scale}
        title={stat}
        main={{ id: item.id, name: item.name, colour: colour(item), ...ends }}
        others={rivals.map(({ item, other, low, high }) => ({
          ...{ id: item, name: other?.name ?? item, colour: colour(other) },
          ...{ low, high },
        }))}
      />
      <DepthTable
        label={`${stat} by depth`}
        width={108}
        heads={[
          { key: 'range', head: <span className="text-muted">{stat}</span> },
          ...rivals.map(({ item, other }) => ({
            key: item,
            head: (
              <span className="flex items-end justify-end gap-1">
                <span
                  className="name line-clamp-2 text-tiny leading-[1.05] text-muted"
                  title={`the chance to beat ${other?.name}`}
                >
                  beats {other?.name}
                </span>
                <TierMark tier={parts.tier.get(other?.tier ?? '')} size={11} />
              </span>
            ),
          })),
        ]}
        rows={view.depths.flatMap((d, row) =>
          shown.has(d)
            ? [
                {
                  ...{ key: String(d), label: String(d), y: scale.y(d), depth: d },
                  here: d === depth,
                  cell: (at: number) => {
                    if (at === 0)
                      return { text: `${figures(ends.low[row])}–${figures(ends.high[row])}` }
                    const beats = rivals[at - 1]?.beats[row] ?? 0
                    return { text: `${percent(beats)}\u202f%`, heat: beats }
                  },
                },
              ]
            : [],
        )}
      />
    </div>
  )
}

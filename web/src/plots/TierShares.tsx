// Tier shares at every depth, stacked sideways: of what falls, or of what it is worth.
import type { DepthSheet } from '@/api/types'
import { useGame } from '@/game/store'
import { percent } from '@/text/format'
import type { DepthScale } from './DepthFrame'

export function TierShares({
  sheet,
  of,
  scale,
  width,
}: {
  sheet: DepthSheet
  of: 'falls' | 'worth'
  scale: DepthScale
  width: number
}) {
  const tiers = [...useGame((state) => state.parts.tier).values()]
  return (
    <svg width={width} height={scale.height} role="img" aria-label="tier shares by depth">
      {sheet.depths.map((d, row) => {
        if (d < sheet.met[0] || d > sheet.met[1]) return null
        let x = 0
        return (sheet[of][row] ?? []).map((share, at) => {
          const from = x
          x += share * width
          return (
            <rect
              key={`${d},${at}`}
              x={from}
              y={(d - scale.from) * scale.step}
              width={Math.max(0, x - from)}
              height={scale.step + 0.4}
              fill={tiers[at]?.colour}
            >
              <title>{`${tiers[at]?.name} at ${d}: ${percent(share)} %`}</title>
            </rect>
          )
        })
      })}
    </svg>
  )
}

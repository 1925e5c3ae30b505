// Tier shares at every depth, stacked sideways: of what falls, or of what it is worth.
import type { DepthSheet } from '@/api/types'
import { useGame } from '@/game/store'
import { percent } from '@/text/format'
import { DepthFigure } from './DepthFigure'
import type { DepthScale } from './DepthFrame'

interface TierSharesProps {
  /** Whose they are. */
  name: string
  sheet: DepthSheet
  of: 'falls' | 'worth'
  scale: DepthScale
  width: number
}

export function TierShares({ name, sheet, of, scale, width }: TierSharesProps) {
  const tiers = [...useGame((state) => state.parts.tier).values()]
  const at = (row: number): number[] => {
    const depth = scale.from + row
    const isMet = depth >= sheet.met[0] && depth <= sheet.met[1]
    return isMet ? (sheet[of][sheet.depths.indexOf(depth)] ?? []) : []
  }
  return (
    <DepthFigure
      title=""
      name={`tier shares of ${of === 'falls' ? 'what falls' : 'what it is worth'}, ${name}`}
      ends={['0', '100 %']}
      width={width}
      scale={scale}
      className="shrink-0"
      saysAt={(row) => {
        const shares = at(row)
        if (!shares.length) return ['not met']
        return shares.flatMap((share, tier) =>
          share > 0 ? [`${tiers[tier]?.name} ${percent(share)} %`] : [],
        )
      }}
      columns={tiers.map((tier) => tier.name)}
      valuesAt={(row) => tiers.map((_, tier) => at(row)[tier] ?? null)}
    >
      {Array.from({ length: scale.to - scale.from + 1 }, (_, row) => (
        <Row key={row} shares={at(row)} y={row * scale.step} height={scale.step} width={width} />
      ))}
    </DepthFigure>
  )
}

function Row(props: { shares: number[]; y: number; height: number; width: number }) {
  const tiers = [...useGame((state) => state.parts.tier).values()]
  const { shares, y, height, width } = props
  const ends = shares.reduce<number[]>((sums, share) => [...sums, (sums.at(-1) ?? 0) + share], [])
  return shares.map((share, at) => (
    <rect
      key={at}
      x={((ends[at] ?? 0) - share) * width}
      y={y}
      width={Math.max(0, share * width)}
      height={height + 0.4}
      fill={tiers[at]?.colour}
    />
  ))
}

// A histogram standing on its floor; optionally with the place that was expected.
import { percent, whole } from '@/text/format'
import { Figure } from './Figure'

const AIR = 4 // above the tallest: it is seen to end
const WIDTH = 190 // of the drawing; it is as wide as there is room

export interface Bin {
  from: number
  to: number
  count: number
}

export function Bars({
  bins,
  expected,
  height = 40,
  label,
  onChoose,
}: {
  bins: Bin[]
  expected?: number | null
  height?: number
  label: string
  /** Enter or a click on a bar. */
  onChoose?: (bin: Bin) => void
}) {
  const first = bins[0]
  const last = bins.at(-1)
  if (!first || !last) return null
  const most = Math.max(...bins.map((bin) => bin.count))
  const all = bins.reduce((sum, bin) => sum + bin.count, 0)
  const wide = WIDTH / bins.length
  const tall = height - AIR
  const span = last.to - first.from || 1
  return (
    <Figure
      name={label}
      says={`${label}: from ${whole(first.from)} to ${whole(last.to)}`}
      width={WIDTH}
      height={height}
      across={[0, height]}
      readings={bins.map((bin, at) => ({ at: (at + 0.5) * wide, says: binWords(bin, all) }))}
      numbers={() => ({
        heads: ['from', 'to', 'players', '%'],
        rows: bins.map((bin) => [bin.from, bin.to, bin.count, (100 * bin.count) / all]),
      })}
      {...(onChoose && { onChoose: (at: number) => bins[at] && onChoose(bins[at]) })}
    >
      {bins.map((bin, at) => (
        <rect
          key={at}
          x={at * wide}
          width={wide * 0.9}
          y={height - (tall * bin.count) / most}
          height={(tall * bin.count) / most}
          fill="var(--color-pine)"
        />
      ))}
      {expected !== null && expected !== undefined && (
        <line
          x1={(WIDTH * (expected - first.from)) / span}
          x2={(WIDTH * (expected - first.from)) / span}
          y1="0"
          y2={height}
          stroke="var(--color-gold)"
          strokeWidth="1.5"
        />
      )}
    </Figure>
  )
}

function binWords(bin: Bin, all: number): string {
  const range = bin.from === bin.to ? whole(bin.from) : `${whole(bin.from)} to ${whole(bin.to)}`
  return `${range}: ${whole(bin.count)}, ${percent(bin.count / all)} %`
}

/** A z-score as a dot on a band of two standard errors. */
export function ZMark({ z }: { z: number | null }) {
  if (z === null) return <span className="label">none</span>
  const place = 50 + 12 * Math.max(-4, Math.min(4, z))
  return (
    <svg viewBox="0 0 100 12" width="58" height="9" preserveAspectRatio="none" aria-hidden>
      <rect x="26" y="3" width="48" height="6" fill="var(--color-shade)" />
      <line x1="50" x2="50" y1="1" y2="11" stroke="var(--color-ghost)" strokeWidth="2" />
      <ellipse
        cx={place}
        cy="6"
        rx="4.2"
        ry="5"
        fill={Math.abs(z) > 4 ? 'var(--color-bad)' : 'var(--color-ink)'}
      />
    </svg>
  )
}

// What plots of numbers have in common: ticks below, levels across.
import { whole } from '@/text/format'

interface Linear {
  (value: number): number
  ticks: (count: number) => number[]
}

export function TicksBelow({ x, y, count = 5 }: { x: Linear; y: number; count?: number }) {
  return spacedTicks(x, count).map((tick) => (
    <text
      key={tick}
      x={x(tick)}
      y={y}
      textAnchor="middle"
      className="num"
      fontSize="9.5"
      fill="var(--color-muted)"
    >
      {whole(tick)}
    </text>
  ))
}

/** As many ticks as asked for, or fewer where they would run into each other. */
function spacedTicks(x: Linear, count: number): number[] {
  const room = (a: number, b: number) => (LETTER * (whole(a).length + whole(b).length)) / 2 + GAP
  for (let wanted = count; wanted > 1; wanted -= 1) {
    const ticks = x.ticks(wanted)
    if (
      ticks.slice(1).every((tick, at) => x(tick) - x(ticks[at] ?? 0) >= room(ticks[at] ?? 0, tick))
    )
      return ticks
  }
  return x.ticks(1)
}

const LETTER = 5.8 // the width of one, in the unit of the plots
const GAP = 8

/** A line across at some height, said at its left end. */
export function Level({
  from,
  to,
  y,
  stroke,
  children,
}: {
  from: number
  to: number
  y: number
  stroke: string
  children: string
}) {
  return (
    <g>
      <line x1={from} x2={to} y1={y} y2={y} stroke={stroke} />
      <text
        x={from - 4}
        y={y + 3}
        textAnchor="end"
        className="num"
        fontSize="9.5"
        fill="var(--color-muted)"
      >
        {children}
      </text>
    </g>
  )
}

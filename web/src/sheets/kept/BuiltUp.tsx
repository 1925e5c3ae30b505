// What a property is built of: from its base, each thing that adds to it as a step, all of them together,
// and its bounds across. What lies beyond a bound is cut off, and drawn so.
import { scaleLinear } from 'd3-scale'
import type { Property } from '@/api/types'
import { useGame } from '@/game/store'
import type { Parts } from '@/game/parts'
import { Figure } from '@/plots/Figure'
import { TicksBelow } from '@/plots/Scale'
import { figures, signed } from '@/text/format'

const W = 340
const ROW = 17
const PAD = { left: 104, right: 40, top: 6, bottom: 18 }

interface Step {
  name: string
  colour: string
  from: number
  to: number
}

export function BuiltUp({ one }: { one: Property }) {
  const parts = useGame((state) => state.parts)
  const steps = stepsOf(parts, one)
  if (!steps.length) return null
  const all = steps.at(-1)?.to ?? one.base
  const bounds = [one.least, one.most].filter((bound): bound is number => typeof bound === 'number')
  const ends = [0, one.base, ...steps.map((step) => step.to), ...bounds]
  const height = PAD.top + ROW * (steps.length + 2) + PAD.bottom
  const x = scaleLinear([Math.min(...ends), Math.max(...ends)], [PAD.left, W - PAD.right]).nice(4)
  const rows: Step[] = [
    { name: 'it begins at', colour: 'var(--color-muted)', from: 0, to: one.base },
    ...steps,
    { name: 'all together', colour: 'var(--color-ink)', from: 0, to: all },
  ]
  const held = Math.min(Math.max(all, one.least ?? -Infinity), one.most ?? Infinity)
  const says = `${one.name}: with everything ${figures(all)}${held === all ? '' : `, held at ${figures(held)}`}`
  const words = (row: Step, at: number) =>
    at === 0 || at === rows.length - 1
      ? `${row.name}: ${figures(row.to)}`
      : `${row.name}: ${signed(row.to - row.from)}, so far ${figures(row.to)}`
  return (
    <Figure
      name={`what ${one.name} is built of`}
      says={says}
      width={W}
      height={height}
      along="y"
      across={[PAD.left, W - PAD.right]}
      readings={rows.map((row, at) => ({
        at: PAD.top + ROW * (at + 0.5),
        says: words(row, at),
      }))}
      numbers={() => ({
        heads: ['what', 'adds', 'so far'],
        rows: rows.map((row) => [row.name, row.to - row.from, row.to]),
      })}
    >
      {bounds.map((bound) => (
        <line
          key={bound}
          x1={x(bound)}
          x2={x(bound)}
          y1={PAD.top}
          y2={height - PAD.bottom}
          stroke="var(--color-ink)"
          strokeDasharray="3 3"
        />
      ))}
      {rows.map((row, at) => (
        <Bar key={row.name} row={row} y={PAD.top + ROW * at} x={x} one={one} />
      ))}
      <TicksBelow x={x} y={height - 5} count={4} />
    </Figure>
  )
}

function Bar({
  row,
  y,
  x,
  one,
}: {
  row: Step
  y: number
  x: (value: number) => number
  one: Property
}) {
  const [low, high] = [Math.min(row.from, row.to), Math.max(row.from, row.to)]
  const isWhole = row.from === 0
  const least = isWhole ? -Infinity : (one.least ?? -Infinity)
  const inside = (value: number) => Math.min(Math.max(value, least), one.most ?? Infinity)
  return (
    <g>
      <text x={PAD.left - 6} y={y + 12} textAnchor="end" fontSize="10.5" fill="var(--color-ink)">
        {row.name.length > 17 ? `${row.name.slice(0, 16)}…` : row.name}
      </text>
      <rect
        x={x(low)}
        width={Math.max(x(high) - x(low), 1)}
        y={y + 4}
        height={ROW - 8}
        fill="none"
        stroke={row.colour}
      />
      {/* Filled is what counts. */}
      <rect
        x={x(inside(low))}
        width={Math.max(x(inside(high)) - x(inside(low)), 0)}
        y={y + 4}
        height={ROW - 8}
        fill={row.colour}
      />
      <text
        x={x(high) + 4}
        y={y + 12}
        className="num"
        fontSize="9.5"
        fill="var(--color-muted)"
        stroke="var(--color-paper)"
        strokeWidth="3"
        paintOrder="stroke"
      >
        {isWhole ? figures(row.to) : signed(row.to - row.from)}
      </text>
    </g>
  )
}

/** Each thing with all the units that count, what takes away first: in the order of the sheet. */
function stepsOf(parts: Parts, one: Property): Step[] {
  const amounts = [
    ...[...parts.item.values()].flatMap((item) =>
      (item.effects ?? [])
        .filter((effect) => effect.property === one.id)
        .map((effect) => ({
          name: item.name,
          colour: parts.tier.get(item.tier)?.colour ?? 'var(--color-ink)',
          amount: effect.amount * (effect.units ?? 1),
        })),
    ),
    ...[...parts.set.values()].flatMap((set) =>
      set.effects
        .filter((effect) => effect.property === one.id)
        .map((effect) => ({ name: set.name, colour: 'var(--color-gold)', amount: effect.amount })),
    ),
  ]
  let at = one.base
  return amounts.map(({ amount, ...step }) => {
    const from = at
    at += amount
    return { ...step, from, to: at }
  })
}

// One hundred dots, each one player in a hundred, placed by the value they end with.
import { scaleLinear } from 'd3-scale'
import type { SpreadOut } from '@/api/types'
import { figures } from '@/text/format'
import { Figure } from './Figure'
import { TicksBelow } from './Scale'

interface SpreadPlotProps {
  spread: SpreadOut
  before: SpreadOut | null
  /** What it is of, and what its value is counted in. */
  name: string
  unit: string
}

const W = 302
const H = 118
const FLOOR = 84
const COLUMNS = 34

export function SpreadPlot({ spread, before, name, unit }: SpreadPlotProps) {
  const every = before ? [...spread.dots, ...before.dots] : spread.dots
  const low = Math.min(...every)
  const high = Math.max(...every)
  const room = Math.max(high - low, 1e-9)
  const x = scaleLinear([low, low + room], [8, W - 8])
  const columnOf = (value: number) =>
    Math.min(COLUMNS - 1, Math.floor(((value - low) / room) * COLUMNS))
  const step = (W - 16) / COLUMNS
  const stacks = stacked(spread.dots, columnOf)
  const tallest = Math.max(...stacks.map((stack) => stack.height))
  const rise = Math.min(step, (FLOOR - 6) / Math.max(tallest, 1))
  const tails = new Set([...spread.dots.keys()].filter((at) => at < 5 || at >= 95))
  return (
    <Figure
      name={name}
      width={W}
      height={H}
      across={[4, FLOOR]}
      readings={spread.dots.map((value, at) => ({
        at: x(value),
        says: `${at + 1} in 100 end with ${figures(value, 4)} ${unit} or less`,
      }))}
      numbers={() => ({
        heads: ['of 100 players', unit, ...(before ? [`${unit}, before`] : [])],
        rows: spread.dots.map((value, at) => [
          at + 1,
          value,
          ...(before ? [before.dots[at] ?? null] : []),
        ]),
      })}
      says={`Half end above ${figures(spread.p50)}, 5 to 95 in a hundred between ${figures(spread.p05)} and ${figures(spread.p95)}`}
    >
      {before && <Outline dots={before.dots} columnOf={columnOf} step={step} rise={rise} />}
      {stacks.map(({ column, level }, at) => (
        <circle
          key={at}
          cx={8 + (column + 0.5) * step}
          cy={FLOOR - (level + 0.5) * rise}
          r={Math.min(step, rise) * 0.42}
          fill={tails.has(at) ? 'var(--color-raised)' : 'var(--color-pine)'}
          stroke="var(--color-pine)"
          strokeWidth="1"
        />
      ))}
      <line x1="4" x2={W - 4} y1={FLOOR} y2={FLOOR} stroke="var(--color-muted)" />
      <TicksBelow x={x} y={FLOOR + 12} count={4} />
      <Range y={FLOOR + 21} x={x} spread={spread} colour="var(--color-ink)" />
      {before && <Range y={FLOOR + 29} x={x} spread={before} colour="var(--color-ghost)" />}
    </Figure>
  )
}

interface Dot {
  column: number
  level: number
  height: number
}

function stacked(dots: number[], columnOf: (value: number) => number): Dot[] {
  const heights = new Map<number, number>()
  return dots.map((value) => {
    const column = columnOf(value)
    const level = heights.get(column) ?? 0
    heights.set(column, level + 1)
    return { column, level, height: level + 1 }
  })
}

function Outline({
  dots,
  columnOf,
  step,
  rise,
}: {
  dots: number[]
  columnOf: (value: number) => number
  step: number
  rise: number
}) {
  const heights = Array.from({ length: COLUMNS }, () => 0)
  for (const value of dots) heights[columnOf(value)] = (heights[columnOf(value)] ?? 0) + 1
  const path = heights
    .map((height, at) => {
      const top = FLOOR - Math.min(height * rise, FLOOR - 2)
      return `L${8 + at * step},${top}L${8 + (at + 1) * step},${top}`
    })
    .join('')
  return (
    <path
      d={`M8,${FLOOR}${path}L${W - 8},${FLOOR}`}
      fill="var(--color-shade)"
      stroke="var(--color-ghost)"
    />
  )
}

function Range({
  y,
  x,
  spread,
  colour,
}: {
  y: number
  x: (value: number) => number
  spread: SpreadOut
  colour: string
}) {
  return (
    <g stroke={colour} fill={colour}>
      <line x1={x(spread.p05)} x2={x(spread.p95)} y1={y} y2={y} strokeWidth="1.4" />
      <line x1={x(spread.p05)} x2={x(spread.p05)} y1={y - 3} y2={y + 3} />
      <line x1={x(spread.p95)} x2={x(spread.p95)} y1={y - 3} y2={y + 3} />
      <circle cx={x(spread.p50)} cy={y} r="2.6" stroke="none" />
    </g>
  )
}

// Something over events or stops: its mean as a line, where nine in ten of players lie as a band; what is exact as
// points on it. Bounds that hold it are drawn across.
import { scaleLinear, scaleLog } from 'd3-scale'
import type { ReactNode } from 'react'
import { brief, figures, short, whole } from '@/text/format'
import { Figure } from './Figure'
import { Level, TicksBelow } from './Scale'
import { leastOf, mostOf } from './ends'

export interface SpanPoint {
  at: number
  mean: number
  p05?: number
  p50?: number
  p95?: number
}

interface SpanProps {
  name: string
  says: string
  /** What a place is: event, stop, fathom. */
  unit: string
  /** What is told at each place, as its column is headed. */
  head?: string
  points: SpanPoint[]
  exact?: SpanPoint[]
  /** Whether places lie by their logarithm. */
  isLog?: boolean
  bounds?: (number | null | undefined)[]
  /** As it is written, where that is not three figures. */
  written?: (value: number) => string
  /** Places where the median player has something: ticks above the axis. */
  ticks?: number[]
  width?: number
  height?: number
  children?: ReactNode
}

const PAD = { left: 34, right: 12, top: 8, bottom: 18 }

export function SpanPlot(props: SpanProps) {
  const { name, says, unit, points, exact = [], bounds = [], written = (v) => figures(v) } = props
  const { head = 'mean' } = props
  const { width: W = 440, height: H = 130, isLog = false, ticks = [] } = props
  const told = [...points, ...exact]
  if (!told.length) return null
  const hasSpread = told.some((one) => one.p05 !== undefined && one.p05 !== null)
  const held = bounds.filter((one): one is number => typeof one === 'number')
  const values = told.flatMap((one) => [one.mean, one.p05 ?? one.mean, one.p95 ?? one.mean])
  const low = leastOf([...values, ...held], 0)
  const high = mostOf([...values, ...held], low + 1e-9)
  const ends: [number, number] = [
    leastOf(told.map((one) => one.at)),
    mostOf(told.map((one) => one.at)),
  ]
  const x = (isLog && ends[0] > 0 ? scaleLog() : scaleLinear())
    .domain(ends[0] === ends[1] ? [ends[0] - 1, ends[1] + 1] : ends)
    .range([PAD.left, W - PAD.right])
  const y = scaleLinear([low, high], [H - PAD.bottom, PAD.top])
  const way = (of: (one: SpanPoint) => number | undefined, some = points) =>
    some.map((one) => `${x(one.at)},${y(of(one) ?? one.mean)}`)
  const band = [...way((one) => one.p95), ...way((one) => one.p05).reverse()]
  const hasBand = points.some((one) => one.p95 !== undefined)
  return (
    <Figure
      name={name}
      says={says}
      width={W}
      height={H}
      across={[PAD.top, H - PAD.bottom]}
      readings={(points.length ? points : exact).map((one) => ({
        at: x(one.at),
        says: reading(one, unit, written),
      }))}
      numbers={() => ({
        heads: [
          unit,
          head,
          ...(hasSpread ? ['5 %', 'half', '95 %'] : []),
          ...(exact.length ? ['exactly'] : []),
        ],
        rows: (points.length ? points : exact).map((one) => [
          one.at,
          one.mean,
          ...(hasSpread ? [one.p05 ?? null, one.p50 ?? null, one.p95 ?? null] : []),
          ...(exact.length ? [exact.find((other) => other.at === one.at)?.mean ?? null] : []),
        ]),
      })}
    >
      {y.ticks(Math.max(2, Math.floor((H - PAD.top - PAD.bottom) / 25))).map((tick) => (
        <Level
          key={tick}
          from={PAD.left}
          to={W - PAD.right}
          y={y(tick)}
          stroke={tick === low ? 'var(--color-muted)' : 'var(--color-shade)'}
        >
          {tick >= 9_995 ? brief(tick) : short(tick)}
        </Level>
      ))}
      {held.map((bound) => (
        <line
          key={bound}
          x1={PAD.left}
          x2={W - PAD.right}
          y1={y(bound)}
          y2={y(bound)}
          stroke="var(--color-bad)"
          strokeDasharray="5 3"
        />
      ))}
      {hasBand && <path d={`M${band.join('L')}Z`} fill="var(--color-pine)" opacity="0.18" />}
      {points.length > 0 && (
        <path
          d={`M${way((one) => one.mean).join('L')}`}
          fill="none"
          stroke="var(--color-pine)"
          strokeWidth="1.6"
        />
      )}
      {exact.map((one) => (
        <circle
          key={one.at}
          cx={x(one.at)}
          cy={y(one.mean)}
          r="2"
          fill="var(--color-paper)"
          stroke="var(--color-ink)"
        />
      ))}
      {ticks.map((tick) => (
        <line
          key={tick}
          x1={x(tick)}
          x2={x(tick)}
          y1={H - PAD.bottom}
          y2={H - PAD.bottom - 7}
          stroke="var(--color-ink)"
          strokeWidth="1.4"
        />
      ))}
      {isLog ? <LogTicks x={x} ends={ends} y={H - 5} /> : <TicksBelow x={x as never} y={H - 5} />}
      {props.children}
    </Figure>
  )
}

/** Powers of ten, and the end. */
function LogTicks({
  x,
  ends,
  y,
}: {
  x: (at: number) => number
  ends: [number, number]
  y: number
}) {
  const powers = Array.from({ length: 8 }, (_, n) => 10 ** n)
  const shown = powers.filter((one) => one >= ends[0] && one * 1.5 < ends[1])
  return [...shown, ends[1]].map((tick) => (
    <text
      key={tick}
      x={x(tick)}
      y={y}
      textAnchor={tick === ends[1] ? 'end' : 'middle'}
      className="num"
      fontSize="9.5"
      fill="var(--color-muted)"
    >
      {whole(tick)}
    </text>
  ))
}

function reading(one: SpanPoint, unit: string, written: (value: number) => string): string {
  const spread =
    one.p05 === undefined || one.p95 === undefined
      ? ''
      : `\n5–95 % ${written(one.p05)} to ${written(one.p95)}`
  return `${unit} ${whole(one.at)}: ${written(one.mean)}${spread}`
}

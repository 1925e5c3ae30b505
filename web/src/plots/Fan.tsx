// Value per player over the events of a trial, or over the stops of a route: the band of the many, and three
// who stood out. Over events it is told from what was expected, or all would lie on one line.
import { scaleLinear } from 'd3-scale'
import type { TrialOut, TrialResult } from '@/api/types'
import { figures, signed, whole } from '@/text/format'
import { Figure } from './Figure'
import { Level, TicksBelow } from './Scale'
import { leastOf, mostOf } from './ends'

const W = 400
const H = 236
const PAD = { left: 44, right: 84, top: 12, bottom: 20 }
const OTHER = 'var(--color-copper)' // the ink of another trial, set beside

interface FanProps {
  trial: TrialOut
  result: TrialResult
  /** What came of another trial of the like, as outlines. */
  other?: TrialResult
}

export function FanPlot({ trial, result, other }: FanProps) {
  const { route, events: each } = trial.spec
  const { quantiles } = result.fan
  // Stops count from 1, and what was before the first is nothing.
  const places = result.fan.events.map((place) => (route ? place + 1 : place))
  const end = Math.max(route ? (places.at(-1) ?? 1) : (each ?? 1), 1)
  const mean = route ? 0 : (result.value.expected_mean ?? result.value.mean) / end
  const ahead = (value: number, at: number) => value - mean * (places[at] ?? 0)
  const rowsOf = (from: TrialResult) =>
    from.fan.quantiles.map((row, at) => row.map((value) => ahead(value, at)))
  const rows = rowsOf(result)
  const others = other && other.fan.quantiles.length === rows.length ? rowsOf(other) : null
  // Beside another trial those who stood out are left away: lines enough.
  const paths = others
    ? []
    : Object.entries(result.players).map(([name, player]) => ({
        name,
        points: player.path.map(ahead),
      }))
  const every = [
    0,
    ...rows.flat(),
    ...(others?.flat() ?? []),
    ...paths.flatMap((path) => path.points),
  ]
  const x = scaleLinear([0, end], [PAD.left, W - PAD.right])
  const y = scaleLinear([leastOf(every), mostOf(every)], [H - PAD.bottom, PAD.top])
  const at = (point: number, value: number) => `${x(places[point] ?? 0)},${y(value)}`
  const line = (values: number[]) => `M${x(0)},${y(0)}L${values.map((v, n) => at(n, v)).join('L')}`
  const band = (low: number, high: number) => {
    const down = rows.map((row, n) => at(n, row[low] ?? 0)).reverse()
    return `M${x(0)},${y(0)}L${rows.map((row, n) => at(n, row[high] ?? 0)).join('L')}L${down.join('L')}Z`
  }
  const last = rows.at(-1) ?? []
  const ends = quantiles.at(-1) ?? []
  const unit = route ? 'stop' : 'event'
  return (
    <Figure
      name={`${trial.name}, value over ${unit}s`}
      says={`Value per player after ${whole(end)} ${unit}s: median ${figures(ends[2] ?? 0, 4)}`}
      width={W}
      height={H}
      across={[PAD.top, H - PAD.bottom]}
      readings={quantiles.map((row, point) => ({
        at: x(places[point] ?? 0),
        says:
          `after ${unit} ${whole(places[point] ?? 0)}: median ${whole(row[2] ?? 0)}\n` +
          `5–95 % ${whole(row[0] ?? 0)} to ${whole(row[4] ?? 0)}`,
      }))}
      numbers={() => ({
        heads: [
          `after ${unit}`,
          ...['5 %', '25 %', '50 %', '75 %', '95 %'],
          ...paths.map((path) => path.name),
          ...(others ? ['5 %, other', '50 %, other', '95 %, other'] : []),
        ],
        rows: quantiles.map((row, point) => {
          const beside = other?.fan.quantiles[point]
          return [
            places[point] ?? 0,
            ...row,
            ...paths.map((path) => result.players[path.name]?.path[point] ?? null),
            ...(others ? [beside?.[0] ?? null, beside?.[2] ?? null, beside?.[4] ?? null] : []),
          ]
        }),
      })}
    >
      {y.ticks(5).map((tick) => (
        <Level
          key={tick}
          from={PAD.left}
          to={W - PAD.right}
          y={y(tick)}
          stroke={tick ? 'var(--color-shade)' : 'var(--color-muted)'}
        >
          {tick ? (route ? whole(tick) : signed(tick)) : '0'}
        </Level>
      ))}
      <path d={band(0, 4)} fill="var(--color-pine)" opacity="0.16" />
      <path d={band(1, 3)} fill="var(--color-pine)" opacity="0.24" />
      {others &&
        [0, 2, 4].map((which) => (
          <path
            key={which}
            d={line(others.map((row) => row[which] ?? 0))}
            fill="none"
            stroke={OTHER}
            strokeWidth={which === 2 ? 1.6 : 1}
            strokeDasharray="4 3"
          />
        ))}
      {paths.map((path) => (
        <path
          key={path.name}
          d={line(path.points)}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth={path.name === 'median' ? 1.6 : 0.9}
        />
      ))}
      {others && (
        <path
          d={line(rows.map((row) => row[2] ?? 0))}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1.6"
        />
      )}
      {spacedLabels(last.map(y)).map((place, n) => (
        <text
          key={n}
          x={W - PAD.right + 5}
          y={place + 3}
          className="num"
          fontSize="9.5"
          fontWeight={n === 2 ? 600 : 400}
          fill="var(--color-ink)"
        >
          {['5', '25', '50', '75', '95'][n]}&#8239;% {whole(ends[n] ?? 0)}
        </text>
      ))}
      <TicksBelow x={x} y={H - 5} />
    </Figure>
  )
}

/** Places for labels from the lowest up, at least a line apart. */
function spacedLabels(places: number[]): number[] {
  const result: number[] = []
  for (const place of places) result.push(Math.min(place, (result.at(-1) ?? Infinity) - 10.5))
  return result
}

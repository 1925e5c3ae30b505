// Value per player over the events of a trial: the band of the many, and three who stood out.
import { scaleLinear } from 'd3-scale'
import type { TrialOut, TrialResult } from '@/api/types'
import { figures, signed, whole } from '@/ui/format'
import { Figure } from './Figure'
import { Level, TicksBelow } from './Scale'

const W = 400
const H = 236
const PAD = { left: 44, right: 84, top: 12, bottom: 20 }

export function FanPlot({ trial, result }: { trial: TrialOut; result: TrialResult }) {
  const { events, quantiles } = result.fan
  const mean = (result.value.expected_mean ?? result.value.mean) / trial.spec.events
  const ahead = (value: number, at: number) => value - mean * (events[at] ?? 0)
  const rows = quantiles.map((row, at) => row.map((value) => ahead(value, at)))
  const paths = Object.entries(result.players).map(([name, player]) => ({
    name,
    points: player.path.map(ahead),
  }))
  const every = [0, ...rows.flat(), ...paths.flatMap((path) => path.points)]
  const x = scaleLinear([0, trial.spec.events], [PAD.left, W - PAD.right])
  const y = scaleLinear([Math.min(...every), Math.max(...every)], [H - PAD.bottom, PAD.top])
  const at = (point: number, value: number) => `${x(events[point] ?? 0)},${y(value)}`
  const line = (values: number[]) => `M${x(0)},${y(0)}L${values.map((v, n) => at(n, v)).join('L')}`
  const band = (low: number, high: number) => {
    const down = rows.map((row, n) => at(n, row[low] ?? 0)).reverse()
    return `M${x(0)},${y(0)}L${rows.map((row, n) => at(n, row[high] ?? 0)).join('L')}L${down.join('L')}Z`
  }
  const last = rows.at(-1) ?? []
  const ends = quantiles.at(-1) ?? []
  const before = (point: number) => mean * (events[point] ?? 0)
  return (
    <Figure
      name={`${trial.name}, value over events`}
      says={`Value per player after ${trial.spec.events} events: median ${figures(ends[2] ?? 0, 4)}`}
      width={W}
      height={H}
      across={[PAD.top, H - PAD.bottom]}
      readings={quantiles.map((row, point) => ({
        at: x(events[point] ?? 0),
        says:
          `after ${whole(events[point] ?? 0)}: median ${whole(row[2] ?? 0)}\n` +
          `5–95 % ${whole(row[0] ?? 0)} to ${whole(row[4] ?? 0)}`,
      }))}
      numbers={() => ({
        heads: [
          'after events',
          'expected',
          '5 %',
          '25 %',
          '50 %',
          '75 %',
          '95 %',
          ...paths.map((path) => path.name),
        ],
        rows: quantiles.map((row, point) => [
          events[point] ?? 0,
          before(point),
          ...row,
          ...paths.map((path) => (path.points[point] ?? 0) + before(point)),
        ]),
      })}
    >
      {y.ticks(5).map((tick) => (
        <Level
          key={tick}
          from={PAD.left}
          to={W - PAD.right}
          y={y(tick)}
          stroke={tick ? '#e9dfcb' : '#6d6258'}
        >
          {tick ? signed(tick) : '0'}
        </Level>
      ))}
      <path d={band(0, 4)} fill="#12312c" opacity="0.16" />
      <path d={band(1, 3)} fill="#12312c" opacity="0.24" />
      {paths.map((path) => (
        <path
          key={path.name}
          d={line(path.points)}
          fill="none"
          stroke="#231c17"
          strokeWidth={path.name === 'median' ? 1.6 : 0.9}
        />
      ))}
      {spacedLabels(last.map(y)).map((place, n) => (
        <text
          key={n}
          x={W - PAD.right + 5}
          y={place + 3}
          className="num"
          fontSize="9.5"
          fontWeight={n === 2 ? 600 : 400}
          fill="#231c17"
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

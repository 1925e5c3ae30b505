// Lines over depth, running downward: x is the figure, linear or logarithmic.
import { scaleLinear, scaleLog } from 'd3-scale'
import { figures } from '@/text/format'
import { DepthFigure } from './DepthFigure'
import type { DepthScale } from './DepthFrame'
import { leastOf, mostOf } from './ends'

interface Line {
  id: string
  name: string
  colour: string
  values: (number | null)[]
  dash?: string | undefined
}

const WIDTH = 230
const PAD = 10
const ENDS = [PAD, WIDTH - PAD]
const LETTER = { width: 5.9, height: 12 } // px, about

export function DepthLines({
  lines,
  scale,
  log,
  title,
}: {
  lines: Line[]
  scale: DepthScale
  log: boolean
  title: string
}) {
  const all = lines.flatMap((line) => line.values.filter((v): v is number => v !== null && v > 0))
  const most = mostOf(all, 1e-12)
  const least = leastOf(all, most)
  const axis = log
    ? scaleLog([least, Math.max(most, least * 1.000001)], ENDS)
    : scaleLinear([0, most], ENDS)
  const x = (value: number) => axis(log ? Math.max(value, least) : value)
  const told = lines.filter((line) => line.name)
  const inside = axis.ticks(log ? 3 : 4).filter((tick) => tick > least && tick < most)
  return (
    <DepthFigure
      title={title}
      ends={[log ? figures(least) : '0', figures(most)]}
      width={WIDTH}
      scale={scale}
      className="ml-4"
      saysAt={(row) => told.map((line) => `${line.name} ${figures(line.values[row]) || '–'}`)}
      columns={told.map((line) => line.name)}
      valuesAt={(row) => told.map((line) => line.values[row] ?? null)}
    >
      {[axis.domain()[0] ?? 0, ...inside, axis.domain()[1] ?? 0].map((tick) => (
        <line
          key={tick}
          x1={axis(tick)}
          x2={axis(tick)}
          y1="0"
          y2={scale.height}
          stroke="var(--color-hair)"
        />
      ))}
      {lines.map((line) => (
        <g key={line.id}>
          <polyline
            fill="none"
            stroke={line.colour}
            strokeWidth="1.8"
            strokeDasharray={line.dash}
            points={line.values
              .flatMap((value, row) =>
                value === null ? [] : [`${x(value)},${scale.y(scale.from + row)}`],
              )
              .join(' ')}
          >
            <title>{line.name}</title>
          </polyline>
        </g>
      ))}
      {named(lines, x, scale).map(({ line, left, y }) => (
        <text
          key={line.id}
          x={left}
          y={y}
          className="name"
          fontSize="11.5"
          fill="var(--color-ink)"
          stroke="var(--color-paper)"
          strokeWidth="3"
          paintOrder="stroke"
        >
          {line.name}
        </text>
      ))}
    </DepthFigure>
  )
}

interface Spot {
  line: Line
  left: number
  width: number
  y: number
}

/** Names beside their lines, as deep as they can stand without crossing a line or another name; where
 * there is no such place, where they cross least. */
function named(lines: Line[], x: (value: number) => number, scale: DepthScale): Spot[] {
  const placed: Spot[] = []
  const pointOf = (line: Line, row: number) => {
    const value = line.values[row]
    return value === null || value === undefined ? null : x(value)
  }
  const crossed = (spot: Spot, row: number) => {
    const outside = spot.left < 0 || spot.left + spot.width > WIDTH
    const names = placed.filter((other) => areNear(other, spot)).length
    const within = (at: number | null) =>
      at !== null && at > spot.left && at < spot.left + spot.width
    const crossing = lines.filter((line) => [row - 1, row].some((r) => within(pointOf(line, r))))
    return 1000 * Number(outside) + 100 * names + crossing.length
  }
  for (const line of lines.filter((one) => one.name)) {
    const width = LETTER.width * line.name.length
    const spots = line.values.flatMap((_, row) => {
      const at = pointOf(line, row)
      if (at === null) return []
      return [at + 4, at - 4 - width].map((left) => {
        const spot = { line, left, width, y: scale.y(scale.from + row) - 3 }
        return { spot, cost: crossed(spot, row) }
      })
    })
    const best = Math.min(...spots.map(({ cost }) => cost))
    const found = spots.findLast(({ cost }) => cost === best)
    if (found) placed.push(found.spot)
  }
  return placed
}

function areNear(a: Spot, b: Spot): boolean {
  const beside = a.left + a.width < b.left || b.left + b.width < a.left
  return !beside && Math.abs(a.y - b.y) < LETTER.height
}

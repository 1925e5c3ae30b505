// Lines over depth, running downward: x is the figure, linear or logarithmic.
import { figures } from '@/ui/format'
import type { DepthScale } from './DepthFrame'

interface Line {
  id: string
  name: string
  colour: string
  values: (number | null)[]
  dashed?: boolean
}

const WIDTH = 230
const PAD = 10

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
  const most = Math.max(...all, 1e-12)
  const least = Math.min(...all, most)
  const x = (value: number) => {
    const share = log
      ? Math.log(Math.max(value, least) / least) / Math.max(1e-9, Math.log(most / least))
      : value / most
    return PAD + share * (WIDTH - 2 * PAD)
  }
  return (
    <div className="relative ml-4" style={{ marginTop: -34 }}>
      <p className="num flex h-[34px] items-end justify-between text-[11px] text-muted">
        <span>{log ? figures(least) : 0}</span>
        <span>{title}</span>
        <span>{figures(most)}</span>
      </p>
      <svg width={WIDTH} height={scale.height} role="img" aria-label={`${title} by depth`}>
        <line x1={PAD} x2={PAD} y1="0" y2={scale.height} stroke="#ddd2bf" />
        <line x1={WIDTH - PAD} x2={WIDTH - PAD} y1="0" y2={scale.height} stroke="#ddd2bf" />
        {lines.map((line, at) => (
          <g key={`${line.id}${line.dashed ? ' beside' : ''}`}>
            <polyline
              fill="none"
              stroke={line.colour}
              strokeWidth="1.8"
              strokeDasharray={line.dashed ? '4 3' : undefined}
              points={line.values
                .flatMap((value, row) =>
                  value === null ? [] : [`${x(value)},${scale.y(scale.from + row)}`],
                )
                .join(' ')}
            >
              <title>{line.name}</title>
            </polyline>
            <Name line={line} x={x} scale={scale} up={12 * at} />
          </g>
        ))}
      </svg>
    </div>
  )
}

function Name({
  line,
  x,
  scale,
  up,
}: {
  line: Line
  x: (v: number) => number
  scale: DepthScale
  up: number
}) {
  const row = line.values.findLastIndex((value) => value !== null)
  const value = line.values[row]
  if (value === null || value === undefined) return null
  const right = x(value) > WIDTH / 2
  return (
    <text
      x={x(value) + (right ? -4 : 4)}
      y={scale.y(scale.from + row) - 3 - up}
      textAnchor={right ? 'end' : 'start'}
      className="name"
      fontSize="11.5"
      fill="#231c17"
    >
      {line.name}
    </text>
  )
}

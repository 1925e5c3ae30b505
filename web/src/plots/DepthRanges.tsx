// Ranges over depth, running downward: the one that is looked at filled, others as outlines.
import { figures } from '@/ui/format'
import { AxisHead, type DepthScale } from './DepthFrame'

export interface DepthRange {
  id: string
  name: string
  colour: string
  low: number[]
  high: number[]
}

const WIDTH = 230
const PAD = 10

export function DepthRanges({
  main,
  others,
  scale,
  title,
}: {
  main: DepthRange
  others: DepthRange[]
  scale: DepthScale
  title: string
}) {
  const ranges = [main, ...others]
  const least = Math.min(0, ...ranges.flatMap((range) => range.low))
  const most = Math.max(...ranges.flatMap((range) => range.high), least + 1e-9)
  const x = (value: number) => PAD + ((value - least) / (most - least)) * (WIDTH - 2 * PAD)
  const line = (values: number[]) =>
    values.map((value, row) => `${x(value).toFixed(1)},${scale.y(scale.from + row).toFixed(1)}`)
  const around = ({ low, high }: DepthRange) => [...line(low), ...line(high).reverse()].join(' ')
  return (
    <div className="relative shrink-0" style={{ marginTop: -34 }}>
      <AxisHead ends={[figures(least), figures(most)]} title={title} width={WIDTH} />
      <svg width={WIDTH} height={scale.height} role="img" aria-label={`${title} by depth`}>
        <line x1={PAD} x2={PAD} y1="0" y2={scale.height} stroke="#ddd2bf" />
        <line x1={WIDTH - PAD} x2={WIDTH - PAD} y1="0" y2={scale.height} stroke="#ddd2bf" />
        <polygon
          points={around(main)}
          fill={main.colour}
          fillOpacity="0.35"
          stroke={main.colour}
          strokeWidth="1.6"
        >
          <title>{main.name}</title>
        </polygon>
        {others.map((range) => (
          <polygon
            key={range.id}
            points={around(range)}
            fill="none"
            stroke={range.colour}
            strokeWidth="1.4"
            strokeDasharray="4 3"
          >
            <title>{range.name}</title>
          </polygon>
        ))}
      </svg>
    </div>
  )
}

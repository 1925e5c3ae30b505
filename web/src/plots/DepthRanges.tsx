// Ranges over depth, running downward: the one that is looked at filled, others as outlines.
import { scaleLinear } from 'd3-scale'
import { figures } from '@/text/format'
import { DepthFigure } from './DepthFigure'
import type { DepthScale } from './DepthFrame'
import { mostOf } from './ends'

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
  const most = mostOf(
    ranges.flatMap((range) => range.high),
    least + 1e-9,
  )
  const x = scaleLinear([least, most], [PAD, WIDTH - PAD])
  const line = (values: number[]) =>
    values.map((value, row) => `${x(value).toFixed(1)},${scale.y(scale.from + row).toFixed(1)}`)
  const around = ({ low, high }: DepthRange) => [...line(low), ...line(high).reverse()].join(' ')
  return (
    <DepthFigure
      title={title}
      ends={[figures(least), figures(most)]}
      width={WIDTH}
      scale={scale}
      saysAt={(row) =>
        ranges.map(
          (range) => `${range.name} ${figures(range.low[row])} to ${figures(range.high[row])}`,
        )
      }
      columns={ranges.flatMap((range) => [`${range.name}, least`, `${range.name}, most`])}
      valuesAt={(row) =>
        ranges.flatMap((range) => [range.low[row] ?? null, range.high[row] ?? null])
      }
    >
      <line x1={PAD} x2={PAD} y1="0" y2={scale.height} stroke="var(--color-hair)" />
      <line x1={WIDTH - PAD} x2={WIDTH - PAD} y1="0" y2={scale.height} stroke="var(--color-hair)" />
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
    </DepthFigure>
  )
}

// For each mean worth of an event the least swing that could be had, and where it is now.
import { scaleLinear } from 'd3-scale'
import type { Frontier } from '@/api/types'
import { useGame } from '@/game/store'
import { figures, written } from '@/text/format'
import { Figure } from './Figure'
import { Level, TicksBelow } from './Scale'

const WIDTH = 302
const HEIGHT = 132
const PAD = { left: 30, right: 30, top: 10, bottom: 18 }

type Point = Frontier['here']

export function FrontierPlot({
  data: { here, least },
  onChoose,
}: {
  data: Frontier
  onChoose: (point: Point) => void
}) {
  const currency = useGame((state) => state.parts.settings.currency)
  const all = [here, ...least]
  const means = all.map((one) => one.mean)
  const x = scaleLinear()
    .domain([Math.min(...means), Math.max(...means)])
    .range([PAD.left, WIDTH - PAD.right])
  const y = scaleLinear()
    .domain([0, Math.max(...all.map((one) => one.cv)) * 1.05])
    .range([HEIGHT - PAD.bottom, PAD.top])
  return (
    <Figure
      name="Mean against swing"
      says={`The least swing for each mean worth; now ${figures(here.mean)} with a swing of ${figures(here.cv)}`}
      width={WIDTH}
      height={HEIGHT}
      across={[PAD.top, HEIGHT - PAD.bottom]}
      readings={least.map((one) => ({
        at: x(one.mean),
        says: `${figures(one.mean)} ${currency}, swing ${figures(one.cv)}\nchoose it to see the numbers`,
      }))}
      numbers={() => ({
        heads: [`mean, ${currency}`, 'least swing'],
        rows: least.map((one) => [one.mean, one.cv]),
      })}
      onChoose={(at) => {
        const point = least[at]
        if (point) onChoose(point)
      }}
    >
      {y.ticks(3).map((tick) => (
        <Level
          key={tick}
          from={PAD.left}
          to={WIDTH - PAD.right}
          y={y(tick)}
          stroke="var(--color-hair)"
        >
          {written(tick)}
        </Level>
      ))}
      <TicksBelow x={x} y={HEIGHT - 5} />
      <polyline
        fill="none"
        stroke="var(--color-verdigris)"
        strokeWidth="1.6"
        points={least.map((one) => `${x(one.mean)},${y(one.cv)}`).join(' ')}
      />
      {least.map((one) => (
        <circle
          key={one.mean}
          cx={x(one.mean)}
          cy={y(one.cv)}
          r="3.2"
          fill="var(--color-paper)"
          stroke="var(--color-gold)"
          strokeWidth="1.8"
        />
      ))}
      <circle cx={x(here.mean)} cy={y(here.cv)} r="3.6" fill="var(--color-ink)" />
      <text x={x(here.mean) + 7} y={y(here.cv) + 4} fontSize="11" fill="var(--color-ink)">
        now
      </text>
    </Figure>
  )
}

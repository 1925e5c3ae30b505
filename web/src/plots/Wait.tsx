// Chance of having it by event k, with marks at 50, 90 and 99 %. The tail is stretched: upward is the
// logarithm of those who still wait, so that nine in ten and 99 in 100 stand apart.
import { scaleLinear } from 'd3-scale'
import type { WaitOut } from '@/api/types'
import { percent, whole } from '@/text/format'
import { Figure } from './Figure'
import { Level, TicksBelow } from './Scale'

interface WaitPlotProps {
  wait: WaitOut
  /** What is waited for, and what is counted. */
  name: string
  one: string
  many: string
}

const W = 302
const H = 128
const TOP = 2.3
const PAD = { left: 30, right: 34, top: 10, bottom: 18 }

export function WaitPlot({ wait, name, one, many }: WaitPlotProps) {
  const marks = (
    [
      [0.5, wait.first_50],
      [0.9, wait.first_90],
      [0.99, wait.first_99],
    ] as const
  ).filter((mark): mark is readonly [0.5 | 0.9 | 0.99, number] => mark[1] !== null)
  const end = wait.points.at(-1)?.[0] ?? 1
  const x = scaleLinear([0, end], [PAD.left, W - PAD.right])
  const up = scaleLinear([0, TOP], [H - PAD.bottom, PAD.top])
  const y = (p: number) => up(Math.min(TOP, -Math.log10(Math.max(1 - p, 1e-9))))
  const path = (points: WaitOut['points']) =>
    points.map(([k, p], at) => `${at ? 'L' : 'M'}${x(k)},${y(p)}`).join('')
  const said = marks.map(([q, k]) => `${100 * q} % by ${whole(k)}`).join(', ')
  const alone = new Map(wait.without)
  return (
    <Figure
      name={`Wait for ${name}`}
      says={`Wait in ${many}: ${said}`}
      width={W}
      height={H}
      across={[PAD.top, H - PAD.bottom]}
      readings={wait.points.map(([k, p]) => ({
        at: x(k),
        says: `by ${one} ${whole(k)}: ${percent(p, 4)} %${alone.has(k) ? `\n${percent(alone.get(k))} % if all were like the first` : ''}`,
      }))}
      numbers={() => ({
        heads: [
          `by ${one}`,
          'have one, %',
          ...(alone.size ? ['if all were like the first, %'] : []),
        ],
        rows: wait.points.map(([k, p]) => [
          k,
          100 * p,
          ...(alone.size ? [alone.has(k) ? 100 * (alone.get(k) ?? 0) : null] : []),
        ]),
      })}
    >
      {[0.5, 0.9, 0.99].map((q) => (
        <Level key={q} from={PAD.left} to={W - PAD.right} y={y(q)} stroke="var(--color-hair)">
          {`${100 * q}\u202f%`}
        </Level>
      ))}
      <line x1={PAD.left} x2={W - PAD.right} y1={y(0)} y2={y(0)} stroke="var(--color-muted)" />
      <TicksBelow x={x} y={H - 5} />
      {wait.without.length > 0 && (
        <path d={path(wait.without)} fill="none" stroke="var(--color-muted)" strokeDasharray="4 3">
          <title>if every one were like the first</title>
        </path>
      )}
      <path d={path(wait.points)} fill="none" stroke="var(--color-ink)" strokeWidth="1.6" />
      {marks.map(([q, k]) => (
        <g key={q}>
          <circle cx={x(k)} cy={y(q)} r="3.2" fill="var(--color-ink)" />
          <text
            x={x(k) + 6}
            y={y(q) + 11}
            className="num"
            fontSize="10.5"
            fontWeight="600"
            fill="var(--color-ink)"
            stroke="var(--color-paper)"
            strokeWidth="3"
            paintOrder="stroke"
          >
            {whole(k)}
          </text>
        </g>
      ))}
    </Figure>
  )
}

// Chance of having it by event k, with marks at 50, 90 and 99 %. The tail is stretched: upward is the
// logarithm of those who still wait, so that nine in ten and 99 in 100 stand apart.
import { scaleLinear } from 'd3-scale'
import type { WaitOut } from '@/api/types'
import { whole } from '@/ui/format'
import { Level, TicksBelow } from './Scale'

const W = 302
const H = 128
const TOP = 2.3
const PAD = { left: 30, right: 34, top: 10, bottom: 18 }

export function WaitPlot({ wait, unit }: { wait: WaitOut; unit: string }) {
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
  return (
    <svg width="100%" viewBox={`0 0 ${W} ${H}`} role="img" aria-label={`Wait in ${unit}: ${said}`}>
      {[0.5, 0.9, 0.99].map((q) => (
        <Level key={q} from={PAD.left} to={W - PAD.right} y={y(q)} stroke="#ddd2bf">
          {`${100 * q}\u202f%`}
        </Level>
      ))}
      <line x1={PAD.left} x2={W - PAD.right} y1={y(0)} y2={y(0)} stroke="#6d6258" />
      <TicksBelow x={x} y={H - 5} />
      {wait.without.length > 0 && (
        <path d={path(wait.without)} fill="none" stroke="#6d6258" strokeDasharray="4 3">
          <title>if every one were like the first</title>
        </path>
      )}
      <path d={path(wait.points)} fill="none" stroke="#231c17" strokeWidth="1.6" />
      {marks.map(([q, k]) => (
        <g key={q}>
          <circle cx={x(k)} cy={y(q)} r="3.2" fill="#231c17" />
          <text
            x={x(k) + 6}
            y={y(q) + 11}
            className="num"
            fontSize="10.5"
            fontWeight="600"
            fill="#231c17"
          >
            {whole(k)}
          </text>
        </g>
      ))}
    </svg>
  )
}

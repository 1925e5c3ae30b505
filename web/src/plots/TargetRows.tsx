// A target along all depths, downward: the wanted band, the figure's line across it, a dot where it
// holds and a ring where it does not; beside it the numbers.
import { scaleLinear, scaleLog } from 'd3-scale'
import type { Standing, Target } from '@/api/types'
import { useGame } from '@/game/store'
import { isOrder, rowAt, told, wantedWords } from '@/game/targets'
import { TargetMark } from '@/ui/TargetMark'
import { Figure } from './Figure'
import { shownDepths, useDepthScale, type DepthScale } from './DepthFrame'
import { mostOf } from './ends'

const WIDTH = 380
const NUMBERS = 130
const GAP = 24
/** Numbers, gap and plot, in pixels. */
export const ROWS_WIDTH = NUMBERS + GAP + WIDTH
const PAD = 14
const ROOM = 1.15
const SPREAD = 20

export function TargetRows({ target, standing }: { target: Target; standing: Standing }) {
  const scale = useDepthScale()
  const axis = axisOf(target, standing)
  return (
    <>
      <Rows target={target} standing={standing} scale={scale} />
      <div className="relative" style={{ marginTop: -34 }}>
        <p className="num flex h-[34px] items-end justify-between text-tiny text-muted">
          <span>{told(target, axis.low)}</span>
          <span className="font-sans">
            wanted {wantedWords(target)}
            {axis.log ? ', logarithmic' : ''}
          </span>
          <span>{told(target, axis.high)}</span>
        </p>
        <Figure
          name={`${target.name} by depth`}
          says={`${target.name} by depth, with the wanted band`}
          width={WIDTH}
          height={scale.height}
          isFluid={false}
          along="y"
          across={[0, WIDTH]}
          readings={standing.depths.map((depth, row) => ({
            at: scale.y(depth),
            says: `at ${depth}: ${told(target, standing.figures[row], standing.never[row])}, ${standing.holds[row] ? 'holds' : 'missed'}`,
          }))}
          numbers={() => ({
            heads: ['depth', target.name, 'holds'],
            rows: standing.depths.map((depth, row) => [
              depth,
              standing.figures[row] ?? (standing.never[row] ? 'never' : null),
              standing.holds[row] ? 'yes' : 'no',
            ]),
          })}
        >
          {!isOrder(target) && (
            <Band target={target} standing={standing} scale={scale} axis={axis} />
          )}
          <Line standing={standing} scale={scale} axis={axis} />
        </Figure>
      </div>
    </>
  )
}

interface Axis {
  low: number
  high: number
  log: boolean
  x: (value: number) => number
}

/** Linear from 0; logarithmic where the figures go over more than a decade or so. */
function axisOf(target: Target, standing: Standing): Axis {
  const ends = isOrder(target)
    ? []
    : [target.wanted - (target.tolerance ?? 0), target.wanted + (target.tolerance ?? 0)]
  const all = [...ends, ...standing.figures.filter((one) => one !== null)]
  const most = mostOf(all, 0)
  const high = (most > 0 ? most : 1) * ROOM
  const least = Math.min(...all.filter((one) => one > 0), high) / ROOM
  const log = high / least > SPREAD
  const low = log ? least : 0
  const x = (log ? scaleLog() : scaleLinear())
    .domain([low, high])
    .range([PAD, WIDTH - PAD])
    .clamp(true)
  return { low, high, log, x }
}

function Band({
  target,
  standing,
  scale,
  axis,
}: {
  target: Target
  standing: Standing
  scale: DepthScale
  axis: Axis
}) {
  const [first, last] = [standing.depths[0], standing.depths.at(-1)]
  if (first === undefined || last === undefined) return null
  const around = target.tolerance ?? 0
  const left = target.side === 'at-most' ? PAD : axis.x(target.wanted - around)
  const right = target.side === 'at-least' ? WIDTH - PAD : axis.x(target.wanted + around)
  const top = scale.y(first) - scale.step / 2
  const height = (last - first + 1) * scale.step
  return (
    <g>
      <line x1={PAD} x2={PAD} y1="0" y2={scale.height} stroke="var(--color-hair)" />
      <line x1={WIDTH - PAD} x2={WIDTH - PAD} y1="0" y2={scale.height} stroke="var(--color-hair)" />
      <rect
        data-testid="wanted band"
        x={left}
        y={top}
        width={Math.max(right - left, 1)}
        height={height}
        fill="var(--color-good)"
        opacity="0.13"
      />
      {[left, right].map((x, at) => (
        <line
          key={at}
          x1={x}
          x2={x}
          y1={top}
          y2={top + height}
          stroke="var(--color-good)"
          opacity="0.55"
        />
      ))}
    </g>
  )
}

function Line({ standing, scale, axis }: { standing: Standing; scale: DepthScale; axis: Axis }) {
  const points = standing.figures.flatMap((figure, row) =>
    figure === null ? [] : [{ x: axis.x(figure), y: scale.y(standing.depths[row] ?? 0), row }],
  )
  const size = Math.min(3.6, scale.step / 3)
  return (
    <g>
      <polyline
        fill="none"
        stroke="var(--color-ink)"
        strokeWidth="1.2"
        points={points.map(({ x, y }) => `${x},${y}`).join(' ')}
      />
      {points.map(({ x, y, row }) =>
        standing.holds[row] ? (
          <circle key={row} cx={x} cy={y} r={size} fill="var(--color-good)" />
        ) : (
          <circle
            key={row}
            cx={x}
            cy={y}
            r={size}
            fill="var(--color-paper)"
            stroke="var(--color-bad)"
            strokeWidth="1.8"
          />
        ),
      )}
    </g>
  )
}

function Rows({
  target,
  standing,
  scale,
}: {
  target: Target
  standing: Standing
  scale: DepthScale
}) {
  const depth = useGame((state) => state.depth)
  return (
    <table
      aria-label="figure by depth"
      className="num relative shrink-0 text-fine"
      style={{ width: NUMBERS }}
    >
      <tbody>
        {shownDepths(scale, depth).map((d) => {
          const row = rowAt(standing, d)
          const asked = row >= 0 && standing.holds.length > 0
          return (
            <tr
              key={d}
              className={`absolute z-10 flex items-center gap-2 bg-paper ${d === depth ? 'font-semibold' : ''}`}
              style={{ top: scale.y(d) - 7.5, height: 15 }}
            >
              <td className="w-[26px] text-right text-muted">{d}</td>
              <td className="w-[70px] text-right">
                {asked ? told(target, standing.figures[row], standing.never[row]) : '·'}
              </td>
              <td className="w-[13px]">
                {asked && <TargetMark stand={standing.holds[row] ? 'met' : 'missed'} />}
              </td>
            </tr>
          )
        })}
      </tbody>
    </table>
  )
}

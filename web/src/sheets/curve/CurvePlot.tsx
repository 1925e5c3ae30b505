// The curve itself: its points are dragged, keyed, added by a double click; the curve as it was stays behind.
import { useDrag } from '@use-gesture/react'
import { useRef, useState } from 'react'
import type { Curve } from '@/api/types'
import { AxisHead, type DepthScale } from '@/plots/DepthFrame'
import { figures } from '@/text/format'
import { useDragged } from '@/ui/useHeld'
import { moved, valueAt, withoutPoint, withPoint, type Points } from './points'

const WIDTH = 360
const PAD = 14

export function CurvePlot({
  saved,
  curve,
  scale,
  onPoints,
}: {
  saved: Curve
  curve: Curve
  scale: DepthScale
  onPoints: (changed: (points: Points) => Points) => void
}) {
  const box = useRef<SVGSVGElement>(null)
  const drag = useDragged()
  const points = curve.points as Points
  // The axis holds still while a point is dragged, or the point would run from the hand.
  const [held, setHeld] = useState<number | null>(null)
  const most = held ?? nice(Math.max(1, ...points.map(([, value]) => value)))
  const x = (value: number) => PAD + (value / most) * (WIDTH - 2 * PAD)
  const at = (page: [number, number]): [number, number] => {
    const rect = box.current?.getBoundingClientRect()
    const value = ((page[0] - (rect?.left ?? 0) - PAD) / (WIDTH - 2 * PAD)) * most
    return [scale.from + Math.floor((page[1] - (rect?.top ?? 0)) / scale.step), Math.max(0, value)]
  }
  return (
    <div style={{ marginTop: -34 }}>
      <AxisHead
        ends={['×0', `×${figures(most)}`]}
        title="double-click adds a point"
        width={WIDTH}
      />
      <svg
        ref={box}
        width={WIDTH}
        height={scale.height}
        role="group"
        aria-label={`curve ${curve.name}`}
        className="touch-none select-none"
        onDoubleClick={(event) =>
          onPoints((now) => withPoint(now, ...at([event.clientX, event.clientY])))
        }
      >
        <rect
          width={WIDTH}
          height={scale.height}
          fill="var(--color-raised)"
          stroke="var(--color-hair)"
        />
        <line
          x1={x(1)}
          x2={x(1)}
          y1="0"
          y2={scale.height}
          stroke="var(--color-hair)"
          strokeDasharray="3 3"
        />
        <text x={x(1) + 3} y="11" fontSize="10" fill="var(--color-muted)" className="num">
          ×1
        </text>
        {saved !== curve && <Trace curve={saved} scale={scale} x={x} faint />}
        <Trace curve={curve} scale={scale} x={x} />
        {points.map(([d, value], n) => (
          <Handle
            key={n}
            place={[x(value), scale.y(d)]}
            words={`point at ${d}: ×${figures(value)}`}
            value={value}
            most={most}
            onMove={(page, how) => {
              setHeld(how.last ? null : most)
              const [depth, next] = at(page)
              drag(how, `points, ${curve.name}`, (game) => {
                const mine = game.curve.get(curve.id)
                if (mine) mine.points = moved(mine.points, n, depth, next, [scale.from, scale.to])
              })
            }}
            onKey={(key) => {
              const step = most / 100
              if (key === 'Delete') return onPoints((now) => withoutPoint(now, n))
              const by = {
                ArrowRight: [0, step],
                ArrowLeft: [0, -step],
                ArrowDown: [1, 0],
                ArrowUp: [-1, 0],
              }[key]
              if (by)
                onPoints((now) =>
                  moved(now, n, d + (by[0] ?? 0), value + (by[1] ?? 0), [scale.from, scale.to]),
                )
            }}
          />
        ))}
      </svg>
    </div>
  )
}

function Trace({
  curve,
  scale,
  x,
  faint,
}: {
  curve: Curve
  scale: DepthScale
  x: (v: number) => number
  faint?: boolean
}) {
  const steps = 8
  const count = (scale.to - scale.from) * steps
  const line = Array.from({ length: count + 1 }, (_, at) => scale.from + at / steps).map(
    (d) => `${x(valueAt(curve, d)).toFixed(1)},${scale.y(d).toFixed(1)}`,
  )
  const edge = (d: number, y: number) => `${x(valueAt(curve, d)).toFixed(1)},${y}`
  const all = [edge(scale.from, 0), ...line, edge(scale.to, scale.height)]
  return (
    <g>
      {!faint && (
        <polygon
          points={`${x(0)},0 ${all.join(' ')} ${x(0)},${scale.height}`}
          fill="var(--color-pine)"
          opacity="0.08"
        />
      )}
      <polyline
        points={all.join(' ')}
        fill="none"
        stroke={faint ? 'var(--color-ghost)' : 'var(--color-pine)'}
        strokeWidth={faint ? 1.2 : 2}
        strokeDasharray={faint ? '4 3' : undefined}
      />
    </g>
  )
}

function Handle({
  place: [x, y],
  words,
  value,
  most,
  onMove,
  onKey,
}: {
  place: [number, number]
  words: string
  value: number
  most: number
  onMove: (page: [number, number], how: { last: boolean; canceled: boolean }) => void
  onKey: (key: string) => void
}) {
  const bind = useDrag(
    ({ xy, last, canceled, tap }) => (tap ? undefined : onMove(xy, { last, canceled })),
    {
      filterTaps: true,
      pointer: { keys: false },
    },
  )
  return (
    <circle
      {...bind()}
      cx={x}
      cy={y}
      r="6"
      tabIndex={0}
      role="slider"
      aria-label={words}
      aria-valuetext={words}
      aria-valuenow={value}
      aria-valuemin={0}
      aria-valuemax={most}
      className="cursor-grab touch-none fill-gold stroke-ink outline-none focus-visible:stroke-[3px]"
      onDoubleClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        if (!event.key.startsWith('Arrow') && event.key !== 'Delete') return
        event.preventDefault()
        event.stopPropagation()
        onKey(event.key)
      }}
    >
      <title>{words}</title>
    </circle>
  )
}

/** The next round number, so that the axis ends on one. */
function nice(x: number): number {
  const unit = 10 ** Math.floor(Math.log10(x))
  return (
    [1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10].map((n) => n * unit).find((n) => n >= x * 1.02) ?? 10 * unit
  )
}

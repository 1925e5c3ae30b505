// A plot over depth: it runs downward and lines up with the plumb line, whose gold line crosses it.
import { useGame, useGamePart } from '@/game/store'
import type { ReactNode } from 'react'

export interface DepthScale {
  from: number
  to: number
  step: number
  height: number
  /** The middle of a depth's row, from the top of the frame. */
  y: (depth: number) => number
}

const TOP_BAR = 40

export function useDepthScale(): DepthScale {
  const { from, to } = useGame((state) => state.parts.settings.depth)
  const height = useGame((state) => state.scaleBox.height)
  const step = height / (to - from + 1)
  return { from, to, step, height, y: (depth) => (depth - from + 0.5) * step }
}

/** Lies at the height of the plumb line's scale, whatever stands above it; `head` px are for headings. */
export function DepthFrame({ children, head = 34 }: { children: ReactNode; head?: number }) {
  const { scaleBox, depth } = useGamePart('scaleBox', 'depth')
  const scale = useDepthScale()
  return (
    <div
      className="absolute inset-x-0 overflow-x-auto overflow-y-hidden"
      data-scrolls-across
      style={{ top: scaleBox.top - TOP_BAR - head, height: scaleBox.height + head }}
    >
      <div className="relative" style={{ height: scaleBox.height + head, paddingTop: head }}>
        <div
          aria-hidden
          className="pointer-events-none absolute inset-x-0 border-t-[1.5px] border-gold/70"
          style={{ top: head + scale.y(depth) }}
        />
        {children}
      </div>
    </div>
  )
}

/** Over a plot whose figures run sideways: its ends, and what it is of, in the room for headings. */
export function AxisHead({
  ends: [least, most],
  title,
  width,
}: {
  ends: [string, string]
  title: string
  width: number
}) {
  return (
    <p
      className="num flex h-[34px] items-end justify-between text-tiny text-muted"
      style={{ width }}
    >
      <span>{least}</span>
      <span>{title}</span>
      <span>{most}</span>
    </p>
  )
}

/** Which depths get a row of numbers: all, or as many as there is room for. */
export function shownDepths(scale: DepthScale, depth: number, room = 15): number[] {
  const every = Math.max(1, Math.ceil(room / scale.step))
  const rows = Array.from({ length: scale.to - scale.from + 1 }, (_, at) => scale.from + at)
  return rows.filter(
    (d) => d === depth || ((d - scale.from) % every === 0 && Math.abs(d - depth) >= every),
  )
}

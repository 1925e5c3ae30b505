// All that one roll can do, cut in proportion to the chances. Boundaries are dragged or keyed.
import { useDrag } from '@use-gesture/react'
import { useRef, type ReactNode } from 'react'
import type { Tier } from '@/api/types'
import { percent } from '@/text/format'
import { TierMark } from '@/ui/Marks'

export interface Segment {
  id: string
  name: string
  chance: number
  tier: Tier | undefined
  blank?: boolean
}

interface Props {
  label: string
  segments: Segment[]
  /** Where the last roll fell, 0 to 1. */
  fell?: number | null
  hot?: string | null
  onHot?: (id: string | null) => void
  /** Move chance from one side of a boundary to the other; `done` ends the gesture. */
  onMove?: (left: string, right: string, by: number, done: boolean) => void
  slim?: boolean
}

export function Strip({ label, segments, fell, hot, onHot, onMove, slim }: Props) {
  const bar = useRef<HTMLDivElement>(null)
  const shown = segments.filter((segment) => segment.chance > 0)
  const starts: number[] = []
  shown.reduce((sum, segment) => (starts.push(sum), sum + segment.chance), 0)
  return (
    <div className="relative pt-2" role="group" aria-label={label}>
      {fell !== null && fell !== undefined && <Fallen at={fell} />}
      <div ref={bar} className={`relative flex w-full ${slim ? 'h-7' : 'h-11'}`}>
        {shown.map((segment) => (
          <Part
            key={segment.id}
            segment={segment}
            slim={slim}
            hot={hot === segment.id}
            onHot={onHot}
          />
        ))}
        {onMove &&
          shown.slice(1).map((right, at) => {
            const left = shown[at]
            return left ? (
              <Boundary
                key={`${left.id}/${right.id}`}
                bar={bar}
                place={starts[at + 1] ?? 0}
                left={left}
                right={right}
                onMove={onMove}
              />
            ) : null
          })}
      </div>
    </div>
  )
}

function Part({
  segment,
  slim,
  hot,
  onHot,
}: {
  segment: Segment
  slim?: boolean
  hot: boolean
  onHot?: (id: string | null) => void
}) {
  const colour = segment.tier?.colour ?? 'var(--color-muted)'
  const style = {
    width: `${100 * segment.chance}%`,
    ...(segment.blank
      ? {}
      : {
          background: `color-mix(in srgb, ${colour} ${hot ? 42 : 27}%, var(--color-raised))`,
          borderBottom: `3px solid ${colour}`,
        }),
  }
  const name = segment.blank ? 'nothing' : segment.name
  const wide = segment.chance > 0.085
  return (
    <div
      data-segment={segment.id}
      title={`${name}: ${percent(segment.chance)} % a roll`}
      style={style}
      className={`min-w-0 overflow-hidden border-r border-paper px-1.5 py-0.5 leading-tight ${segment.blank ? 'hatch border-y border-y-hair text-muted' : ''}`}
      onMouseEnter={() => onHot?.(segment.id)}
      onMouseLeave={() => onHot?.(null)}
    >
      {wide && (
        <Row slim={slim}>
          <span className="name block truncate text-body">{name}</span>
          <span className="num flex items-center gap-1 whitespace-nowrap text-fine">
            {!segment.blank && <TierMark tier={segment.tier} size={11} />}
            {percent(segment.chance)}&#8239;%
          </span>
        </Row>
      )}
      {!wide && segment.chance > 0.018 && !segment.blank && (
        <TierMark tier={segment.tier} size={11} />
      )}
    </div>
  )
}

function Row({ slim, children }: { slim?: boolean; children: ReactNode }) {
  return <div className={slim ? 'flex justify-between gap-2' : ''}>{children}</div>
}

function Boundary({
  bar,
  place,
  left,
  right,
  onMove,
}: {
  bar: React.RefObject<HTMLDivElement | null>
  place: number
  left: Segment
  right: Segment
  onMove: NonNullable<Props['onMove']>
}) {
  // The chances as they were when the drag began: the move is told against them. Letting go and
  // losing the pointer both end a drag; it ends once.
  const from = useRef<[number, number] | null>(null)
  const bind = useDrag(
    ({ movement: [x], last, first }) => {
      if (first) from.current = [left.chance, right.chance]
      if (!from.current) return
      const by = within(from.current, x / (bar.current?.clientWidth ?? 1))
      if (last) from.current = null
      onMove(left.id, right.id, by, last)
    },
    { filterTaps: true, pointer: { keys: false } },
  )
  return (
    <div
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-label={`Boundary between ${left.name} and ${right.blank ? 'nothing' : right.name}`}
      aria-valuenow={Math.round(1000 * place) / 10}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuetext={`${percent(left.chance)} % and ${percent(right.chance)} %`}
      className="group absolute -top-1 bottom-0 z-10 w-[9px] -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: `${100 * place}%` }}
      onKeyDown={(event) => {
        const by = event.key === 'ArrowRight' ? 0.01 : event.key === 'ArrowLeft' ? -0.01 : 0
        if (!by) return
        event.preventDefault()
        event.stopPropagation()
        onMove(left.id, right.id, within([left.chance, right.chance], by), true)
      }}
    >
      <span className="absolute inset-y-0 left-1/2 w-[2px] -translate-x-1/2 group-hover:bg-gold group-focus-visible:bg-gold" />
      <span className="absolute left-1/2 top-0 h-1.5 w-px bg-muted group-hover:bg-gold" />
    </div>
  )
}

/** A boundary leaves a sliver on both sides: what has no width could not be taken hold of again. */
const SLIVER = 0.002

function within([left, right]: [number, number], by: number): number {
  return Math.min(Math.max(0, right - SLIVER), Math.max(-Math.max(0, left - SLIVER), by))
}

function Fallen({ at }: { at: number }) {
  return (
    <span
      className="pointer-events-none absolute top-0 z-20 -translate-x-1/2 transition-[left] duration-150"
      style={{ left: `${100 * at}%` }}
      title="where the last roll fell"
    >
      <svg width="14" height="14" viewBox="0 0 16 16" aria-hidden>
        <g transform="rotate(12 8 8)">
          <rect
            x="1"
            y="1"
            width="14"
            height="14"
            rx="3"
            fill="var(--color-gold)"
            stroke="var(--color-ink)"
            strokeWidth="0.8"
          />
          <circle cx="8" cy="8" r="2" fill="var(--color-ink)" />
        </g>
      </svg>
    </span>
  )
}

/** For `each`: one slim strip a line, hit and miss. */
export function HitStrips({
  segments,
  hot,
  onHot,
}: {
  segments: Segment[]
  hot?: string | null
  onHot?: (id: string | null) => void
}) {
  return (
    <div className="space-y-[3px] py-2" role="group" aria-label="chance of each line to hit">
      {segments.map((segment) => (
        <div
          key={segment.id}
          className="hatch relative h-[9px] w-full border-b border-hair"
          title={`${segment.name}: hits ${percent(segment.chance)} %, misses ${percent(1 - segment.chance)} %`}
          onMouseEnter={() => onHot?.(segment.id)}
          onMouseLeave={() => onHot?.(null)}
        >
          <div
            className="h-full"
            style={{
              width: `${100 * segment.chance}%`,
              background: `color-mix(in srgb, ${segment.tier?.colour ?? 'var(--color-muted)'} ${hot === segment.id ? 100 : 80}%, var(--color-raised))`,
            }}
          />
        </div>
      ))}
    </div>
  )
}

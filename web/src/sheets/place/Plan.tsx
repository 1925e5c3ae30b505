// The plan of a place to scale: covers as hatches, spots as squares that fill by how likely they hold something. Painted
// by drag, erased with Alt; or by keys: arrows move, Enter paints, Delete erases.
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import type { Place, PlaceOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { percent } from '@/ui/format'
import { cell, cellsOf, type Cells } from './edits'
import type { Laid } from './Picture'

export type Tool = { kind: 'spots' } | { kind: 'cover'; id: string }

interface PlanProps {
  place: Place
  told: PlaceOut | undefined
  parts: Parts
  tool: Tool
  /** The line whose chances are shown, null for all. */
  line: string | null
  colourOf: (line: string) => string
  nameOf: (line: string) => string
  onPaint: (cells: [number, number][], on: boolean) => void
  chosen: string | null
  /** A picture under it all. */
  laid: Laid | null
  onChoose: (spot: string | null) => void
}

interface Stroke {
  cells: Map<string, [number, number]>
  on: boolean
}

const WIDE = 560
const HIGH = 420
const HATCHES = ['#7a5c9e', '#2f6f9d', '#9d6a2f', '#3f8a5a', '#9d3f5c']

export function Plan(props: PlanProps) {
  const { place, told, tool, line, colourOf, nameOf, onPaint, chosen, onChoose } = props
  const [columns, rows] = place.size
  const size = Math.max(5, Math.min(WIDE / columns, HIGH / rows, 40))
  const svg = useRef<SVGSVGElement>(null)
  const [cursor, setCursor] = useState<[number, number]>([0, 0])
  const [stroke, drawStroke] = useState<Stroke | null>(null)
  // A hand may be quicker than the screen: what is under way is known before it is drawn.
  const underway = useRef<Stroke | null>(null)
  const setStroke = (next: Stroke | null) => {
    underway.current = next
    drawStroke(next)
  }
  const [focused, setFocused] = useState(false)
  const [over, setOver] = useState<string | null>(null)
  const at = (event: PointerEvent): [number, number] | null => {
    const box = svg.current?.getBoundingClientRect()
    if (!box) return null
    const x = Math.floor((event.clientX - box.left) / size)
    const y = Math.floor((event.clientY - box.top) / size)
    return x >= 0 && y >= 0 && x < columns && y < rows ? [x, y] : null
  }
  const spotAt = (x: number, y: number) => place.spots.find((one) => one.x === x && one.y === y)
  const begin = (event: PointerEvent) => {
    const here = at(event)
    if (!here || event.button !== 0) return
    event.currentTarget.setPointerCapture(event.pointerId)
    setCursor(here)
    const spot = spotAt(...here)
    const erases = event.altKey
    if (tool.kind === 'spots' && spot && !erases) return onChoose(spot.id)
    setStroke({ cells: new Map([[cell(...here), here]]), on: !erases })
  }
  const move = (event: PointerEvent) => {
    const here = at(event)
    setOver(here ? (spotAt(...here)?.id ?? null) : null)
    const now = underway.current
    if (!now || !here || now.cells.has(cell(...here))) return
    const last = [...now.cells.values()].at(-1) ?? here
    const passed = between(last, here).map((one) => [cell(...one), one] as const)
    setStroke({ ...now, cells: new Map([...now.cells, ...passed]) })
  }
  const end = () => {
    const done = underway.current
    if (done) onPaint([...done.cells.values()], done.on)
    setStroke(null)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const steps: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    }
    const step = steps[event.key]
    if (step) {
      const next: [number, number] = [
        Math.max(0, Math.min(columns - 1, cursor[0] + step[0])),
        Math.max(0, Math.min(rows - 1, cursor[1] + step[1])),
      ]
      setCursor(next)
      onChoose(spotAt(...next)?.id ?? null)
    } else if (event.key === 'Enter' || event.key === ' ') onPaint([cursor], true)
    else if (event.key === 'Delete' || event.key === 'Backspace') onPaint([cursor], false)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const shown = over ?? chosen
  return (
    <div>
      <div
        role="application"
        tabIndex={0}
        aria-label={`plan of ${place.name}: column ${cursor[0] + 1}, row ${cursor[1] + 1}. Arrows move, Enter paints, Delete erases`}
        className="inline-block select-none border border-hair bg-raised outline-offset-2"
        onPointerDown={begin}
        onPointerMove={move}
        onPointerUp={end}
        onPointerLeave={() => setOver(null)}
        onKeyDown={onKeyDown}
        onFocus={() => setFocused(true)}
        onBlur={() => setFocused(false)}
      >
        <svg ref={svg} width={columns * size} height={rows * size} className="block" aria-hidden>
          <defs>
            {place.covers.map((cover, n) => (
              <pattern
                key={cover.id}
                id={`hatch-${cover.id}`}
                width="7"
                height="7"
                patternUnits="userSpaceOnUse"
                patternTransform={`rotate(${45 + 35 * n})`}
              >
                <line x1="0" x2="0" y1="0" y2="7" stroke={inkOf(n)} strokeWidth="2" opacity="0.5" />
              </pattern>
            ))}
          </defs>
          {props.laid && (
            <image
              href={props.laid.address}
              width={columns * size}
              height={rows * size}
              preserveAspectRatio="none"
              opacity={props.laid.opacity}
            />
          )}
          <Lines columns={columns} rows={rows} size={size} />
          {place.covers.map((cover) => (
            <CoverDrawn
              key={cover.id}
              id={cover.id}
              size={size}
              cells={withStroke(
                cellsOf(cover),
                tool.kind === 'cover' && tool.id === cover.id ? stroke : null,
              )}
            />
          ))}
          {tool.kind === 'spots' &&
            [...(stroke?.cells.values() ?? [])].map(([x, y]) => (
              <rect
                key={cell(x, y)}
                x={x * size + 2}
                y={y * size + 2}
                width={size - 4}
                height={size - 4}
                fill={stroke?.on ? 'var(--color-gold-wash)' : 'var(--color-shade)'}
                stroke="var(--color-gold-ink)"
              />
            ))}
          {place.spots.map((spot) => {
            const chances = told?.spots[spot.id]
            const set = told?.setting ? told.setting[spot.id] : undefined
            const held = told?.setting
              ? set !== undefined && (line === null || set === line)
                ? 1
                : 0
              : line === null
                ? 1 - (chances?.empty ?? 1)
                : (chances?.[line] ?? 0)
            const best = set ?? line ?? likeliest(chances)
            const inner = size - 4
            return (
              <g key={spot.id} transform={`translate(${spot.x * size + 2},${spot.y * size + 2})`}>
                <rect width={inner} height={inner} rx="2" fill="var(--color-paper)" />
                <rect
                  y={inner * (1 - held)}
                  width={inner}
                  height={inner * held}
                  rx="2"
                  fill={best ? colourOf(best) : 'var(--color-muted)'}
                  fillOpacity="0.75"
                />
                <rect
                  width={inner}
                  height={inner}
                  rx="2"
                  fill="none"
                  stroke={spot.id === chosen ? 'var(--color-gold)' : 'var(--color-ink)'}
                  strokeWidth={spot.id === chosen ? 2.5 : 1}
                />
              </g>
            )
          })}
          {focused && (
            <rect
              x={cursor[0] * size + 1}
              y={cursor[1] * size + 1}
              width={size - 2}
              height={size - 2}
              fill="none"
              stroke="var(--color-gold)"
              strokeWidth="2"
              strokeDasharray="3 2"
            />
          )}
        </svg>
      </div>
      <p className="min-h-10 max-w-[620px] pt-1 text-note text-muted" data-testid="spot">
        {shown ? says(place, told, shown, nameOf) : 'Point at a spot to see what may lie there.'}
      </p>
    </div>
  )
}

export const inkOf = (at: number) => HATCHES[at % HATCHES.length] ?? '#555'

function Lines({ columns, rows, size }: { columns: number; rows: number; size: number }) {
  const across = Array.from({ length: rows + 1 }, (_, y) => `M0 ${y * size}H${columns * size}`)
  const down = Array.from({ length: columns + 1 }, (_, x) => `M${x * size} 0V${rows * size}`)
  return <path d={[...across, ...down].join('')} stroke="var(--color-shade)" strokeWidth="0.6" />
}

/** Runs of cells side by side as one shape each. */
function CoverDrawn({ id, size, cells }: { id: string; size: number; cells: Cells }) {
  const runs: string[] = []
  const byRow = new Map<number, number[]>()
  for (const key of cells) {
    const [x = 0, y = 0] = key.split(',').map(Number)
    byRow.set(y, [...(byRow.get(y) ?? []), x])
  }
  for (const [y, xs] of byRow) {
    xs.sort((a, b) => a - b)
    for (let n = 0; n < xs.length;) {
      let last = n
      while (xs[last + 1] === (xs[last] ?? 0) + 1) last += 1
      const from = (xs[n] ?? 0) * size
      runs.push(
        `M${from} ${y * size}h${((xs[last] ?? 0) - (xs[n] ?? 0) + 1) * size}v${size}H${from}z`,
      )
      n = last + 1
    }
  }
  return <path d={runs.join('')} fill={`url(#hatch-${id})`} />
}

/** The cells from one to another, since a quick hand is told of only some on its way. */
function between(from: [number, number], to: [number, number]): [number, number][] {
  const steps = Math.max(Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1]))
  return Array.from({ length: steps }, (_, at) => [
    Math.round(from[0] + ((at + 1) / steps) * (to[0] - from[0])),
    Math.round(from[1] + ((at + 1) / steps) * (to[1] - from[1])),
  ])
}

function withStroke(cells: Cells, stroke: Stroke | null): Cells {
  if (!stroke) return cells
  const next = new Set(cells)
  for (const key of stroke.cells.keys())
    if (stroke.on) next.add(key)
    else next.delete(key)
  return next
}

function likeliest(chances: Record<string, number> | undefined): string | null {
  let best: string | null = null
  for (const [line, chance] of Object.entries(chances ?? {}))
    if (line !== 'empty' && chance > (best ? (chances?.[best] ?? 0) : 0)) best = line
  return best
}

function says(
  place: Place,
  told: PlaceOut | undefined,
  id: string,
  nameOf: (line: string) => string,
): string {
  const spot = place.spots.find((one) => one.id === id)
  if (!spot) return ''
  const name = spot.name || spot.id
  const kinds = spot.kinds.length ? `only ${spot.kinds.join(', ')}` : 'of any kind'
  const chances = Object.entries(told?.spots[id] ?? {})
    .filter(([line, chance]) => line !== 'empty' && chance > 0)
    .sort((a, b) => b[1] - a[1])
    .map(([line, chance]) => `${nameOf(line)} ${percent(chance)} %`)
  const empty = told?.spots[id]?.empty ?? 1
  const lies = chances.length ? chances.join(', ') : 'nothing may lie here'
  return `${name}, ${kinds}: ${lies}; empty ${percent(empty)} %`
}

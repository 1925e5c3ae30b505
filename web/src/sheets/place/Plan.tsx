// The plan of a place to scale: covers as hatches, spots as squares that fill by how likely they hold something. Painted
// by drag, erased with Alt; or by keys: arrows move, Enter paints, Delete erases.
import {
  memo,
  useCallback,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type RefObject,
} from 'react'
import type { Cover, Place, PlaceOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { percent } from '@/text/format'
import { CoverLayer, type PaintCell } from './CoverLayer'
import { cell, cellsOf } from './edits'
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
  /** Spots of which there are too few for something. */
  short: ReadonlySet<string>
  /** A picture under it all. */
  laid: Laid | null
  onChoose: (spot: string | null) => void
}

interface Stroke {
  cells: Map<string, [number, number]>
  on: boolean
  last: [number, number]
}

const WIDE = 560
const HIGH = 420

export function Plan(props: PlanProps) {
  const { place, told, tool, line, colourOf, nameOf, onPaint, chosen, onChoose } = props
  const [columns, rows] = place.size
  const size = Math.max(5, Math.min(WIDE / columns, HIGH / rows, 40))
  const svg = useRef<SVGSVGElement>(null)
  const [cursor, setCursor] = useState<[number, number]>([0, 0])
  const [stroke, drawStroke] = useState<Stroke | null>(null)
  // A hand may be quicker than the screen: what is under way is known before it is drawn.
  const underway = useRef<Stroke | null>(null)
  const [strokes, setStrokes] = useState(0)
  const layers = useRef(new Map<string, PaintCell>())
  const paintOn = tool.kind === 'cover' ? tool.id : null
  /** On a cover a cell is drawn at once, on its layer; spots are drawn with the rest. */
  const add = (on: Stroke, cells: [number, number][]) => {
    underway.current = on
    for (const one of cells) on.cells.set(cell(...one), one)
    const layer = paintOn === null ? undefined : layers.current.get(paintOn)
    if (paintOn === null) drawStroke({ ...on, cells: new Map(on.cells) })
    else for (const [x, y] of cells) layer?.(x, y, on.on)
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
    add({ cells: new Map(), on: !erases, last: here }, [here])
  }
  const move = (event: PointerEvent) => {
    const here = at(event)
    setOver(here ? (spotAt(...here)?.id ?? null) : null)
    const now = underway.current
    if (!now || !here || (now.last[0] === here[0] && now.last[1] === here[1])) return
    add(now, between(now.last, here))
    now.last = here
  }
  const end = () => {
    const done = underway.current
    underway.current = null
    if (!done) return
    onPaint([...done.cells.values()], done.on)
    drawStroke(null)
    setStrokes((count) => count + 1)
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
        onPointerCancel={() => {
          underway.current = null
          drawStroke(null)
          setStrokes((count) => count + 1)
        }}
        onPointerLeave={() => setOver(null)}
        onKeyDown={onKeyDown}
        onFocus={() => setFocused(true)}
        onBlur={() => setFocused(false)}
      >
        <div className="relative">
          {props.laid && (
            <img
              src={props.laid.address}
              alt=""
              className="absolute inset-0"
              style={{ width: columns * size, height: rows * size, opacity: props.laid.opacity }}
            />
          )}
          {place.covers.map((cover, n) => (
            <Layer
              key={cover.id}
              {...{ cover, size, columns, rows, strokes }}
              at={n}
              layers={layers}
            />
          ))}
          <svg
            ref={svg}
            width={columns * size}
            height={rows * size}
            className="relative block"
            aria-hidden
          >
            <Lines columns={columns} rows={rows} size={size} />
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
            <Spots {...{ place, told, line, size, colourOf, chosen, short: props.short }} />
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
      </div>
      <p className="min-h-10 max-w-[620px] pt-1 text-note text-muted" data-testid="spot">
        {shown ? says(place, told, shown, nameOf) : 'Point at a spot to see what may lie there.'}
      </p>
    </div>
  )
}

function Layer({
  cover,
  layers,
  ...rest
}: {
  cover: Cover
  layers: RefObject<Map<string, PaintCell>>
  at: number
  size: number
  columns: number
  rows: number
  strokes: number
}) {
  const cells = useMemo(() => cellsOf(cover), [cover])
  const onReady = useCallback(
    (paint: PaintCell | null) => {
      if (paint) layers.current.set(cover.id, paint)
      else layers.current.delete(cover.id)
    },
    [cover.id, layers],
  )
  return <CoverLayer cells={cells} onReady={onReady} {...rest} />
}

type SpotsProps = Pick<PlanProps, 'place' | 'told' | 'line' | 'colourOf' | 'chosen' | 'short'> & {
  size: number
}

/** Squares that fill by how likely they hold something; drawn again only when that changes. */
const Spots = memo(
  function Spots({ place, told, line, size, colourOf, chosen, short }: SpotsProps) {
    return place.spots.map((spot) => {
      const chances = told?.spots[spot.id]
      const set = told?.setting ? told.setting[spot.id] : undefined
      const isSet = set !== undefined && (line === null || set === line)
      const chance = line === null ? 1 - (chances?.empty ?? 1) : (chances?.[line] ?? 0)
      const held = told?.setting ? Number(isSet) : chance
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
          {short.has(spot.id) && (
            <path d={`M0 0H${inner * 0.45}L0 ${inner * 0.45}z`} fill="var(--color-waiting)" />
          )}
        </g>
      )
    })
  },
  // What colours a line changes with the place's stock, which what is told of it rests on.
  (a, b) =>
    a.place === b.place &&
    a.told === b.told &&
    a.line === b.line &&
    a.size === b.size &&
    a.short === b.short &&
    a.chosen === b.chosen,
)

function Lines({ columns, rows, size }: { columns: number; rows: number; size: number }) {
  const across = Array.from({ length: rows + 1 }, (_, y) => `M0 ${y * size}H${columns * size}`)
  const down = Array.from({ length: columns + 1 }, (_, x) => `M${x * size} 0V${rows * size}`)
  return <path d={[...across, ...down].join('')} stroke="var(--color-shade)" strokeWidth="0.6" />
}

/** The cells from one to another, since a quick hand is told of only some on its way. */
function between(from: [number, number], to: [number, number]): [number, number][] {
  const steps = Math.max(Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1]))
  return Array.from({ length: steps }, (_, at) => [
    Math.round(from[0] + ((at + 1) / steps) * (to[0] - from[0])),
    Math.round(from[1] + ((at + 1) / steps) * (to[1] - from[1])),
  ])
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

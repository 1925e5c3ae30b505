// What every plot stands in: the value under the pointer or the arrow keys, its numbers as a table one key
// away, and a way to take numbers and picture along.
import { useRef, useState, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react'
import { Menu } from '@/ui/Menu'
import { DataTable } from '@/ui/table/DataTable'
import type { Numbers, Told } from '@/ui/table/numbers'
import { copyNumbers, saveNumbers, savePicture, type Surround } from '@/ui/taking'

/** A value that can be read: where on the axis it is, in units of the drawing, and what it says. */
export interface Reading {
  at: number
  says: string
}

interface FigureProps {
  /** Its accessible name, and its file's. */
  name: string
  /** All of it in words. */
  says: string
  width: number
  height: number
  /** As wide as there is room, drawn to scale; else in pixels. */
  isFluid?: boolean
  /** The axis along which one reads: across, or down the depths. */
  along?: 'x' | 'y'
  readings: Reading[]
  /** From where to where the line of what is being read goes, across the axis. */
  across: [number, number]
  numbers: () => Numbers
  /** What stands around it on the sheet, and has to be in its picture. */
  printed?: Surround
  /** What is being read, for who draws something of it. */
  onRead?: (at: number | null) => void
  /** Enter or a click on a value. */
  onChoose?: (at: number) => void
  children: ReactNode
}

export function Figure(props: FigureProps) {
  const { name, says, width, height, isFluid = true, along = 'x', readings, across } = props
  const svg = useRef<SVGSVGElement>(null)
  const [reading, setReading] = useState<number | null>(null)
  const [asTable, setAsTable] = useState(false)
  const read = (at: number | null) => {
    setReading(at)
    props.onRead?.(at)
  }
  const now = reading === null ? undefined : readings[reading]
  const follow = (event: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect()
    if (!box) return
    const place =
      along === 'x'
        ? ((event.clientX - box.left) * width) / box.width
        : ((event.clientY - box.top) * height) / box.height
    read(nearest(readings, place))
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== event.currentTarget) return
    const to = stepOf(event.key, reading, readings.length, along)
    if (to !== null) read(to)
    else if (event.key === 'n' || event.key === 'N') setAsTable(!asTable)
    else if (event.key === 'Enter' && reading !== null) props.onChoose?.(reading)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <div className="group/figure relative" style={isFluid ? undefined : { width }}>
      {asTable ? (
        <AsTable
          name={name}
          numbers={props.numbers()}
          height={height}
          onClose={() => setAsTable(false)}
        />
      ) : (
        <div
          role="slider"
          tabIndex={0}
          aria-label={`${name}; N shows the numbers`}
          aria-orientation={along === 'x' ? 'horizontal' : 'vertical'}
          aria-valuemin={0}
          aria-valuemax={Math.max(0, readings.length - 1)}
          aria-valuenow={reading ?? 0}
          aria-valuetext={now?.says ?? says}
          onKeyDown={onKeyDown}
          onPointerMove={follow}
          onPointerLeave={() => read(null)}
          onBlur={() => read(null)}
          onClick={() => reading !== null && props.onChoose?.(reading)}
        >
          <svg
            ref={svg}
            role="img"
            aria-label={says}
            className="block"
            {...(isFluid
              ? { width: '100%', viewBox: `0 0 ${width} ${height}` }
              : { width, height })}
          >
            {props.children}
            {now && <ReadingLine at={now.at} along={along} across={across} />}
          </svg>
        </div>
      )}
      {now && !asTable && (
        <Said
          place={now.at / (along === 'x' ? width : height)}
          along={along}
          isBeside={!isFluid && width < NARROW}
        >
          {now.says}
        </Said>
      )}
      <Take
        name={name}
        numbers={props.numbers}
        svg={() => svg.current}
        printed={props.printed}
        asTable={asTable}
        onTable={() => setAsTable(!asTable)}
      />
    </div>
  )
}

function ReadingLine({
  at,
  along,
  across: [from, to],
}: {
  at: number
  along: 'x' | 'y'
  across: [number, number]
}) {
  const ends =
    along === 'x' ? { x1: at, x2: at, y1: from, y2: to } : { y1: at, y2: at, x1: from, x2: to }
  return <line {...ends} data-not-printed stroke="var(--color-gold-ink)" strokeWidth="1" />
}

const NARROW = 300 // pixels

/** Beside the line, on the side where there is room. */
function Said({
  place,
  along,
  isBeside,
  children,
}: {
  place: number
  along: 'x' | 'y'
  /** Outside of the plot, which is narrower than what it says. */
  isBeside: boolean
  children: ReactNode
}) {
  const share = `${(100 * place).toFixed(1)}%`
  const style =
    along === 'y'
      ? {
          top: share,
          ...(isBeside ? { left: '100%' } : { right: 4 }),
          transform: place > 0.5 ? 'translateY(-110%)' : 'translateY(10%)',
        }
      : {
          left: share,
          top: 0,
          transform: place > 0.5 ? 'translateX(calc(-100% - 6px))' : 'translateX(6px)',
        }
  return (
    <p
      aria-hidden
      data-testid="read"
      className="num pointer-events-none absolute z-20 whitespace-pre border border-hair bg-raised px-1.5 py-0.5 text-tiny leading-4"
      style={style}
    >
      {children}
    </p>
  )
}

function AsTable({
  name,
  numbers,
  height,
  onClose,
}: {
  name: string
  numbers: Numbers
  height: number
  onClose: () => void
}) {
  const rows = numbers.rows.map((cells, at) => ({ at, cells }))
  return (
    <div
      className="overflow-auto border-y border-hair pr-6"
      style={{ maxHeight: Math.max(height, 160) }}
      onKeyDown={(event) => event.key.toLowerCase() === 'n' && onClose()}
    >
      <DataTable
        label={`${name}, numbers`}
        rows={rows}
        keyOf={(row) => String(row.at)}
        columns={numbers.heads.map((head, column) => ({
          id: String(column),
          head,
          value: (row: { cells: Told[] }) => row.cells[column] ?? null,
        }))}
      />
    </div>
  )
}

function Take({
  name,
  numbers,
  svg,
  printed,
  asTable,
  onTable,
}: {
  name: string
  numbers: () => Numbers
  svg: () => SVGSVGElement | null
  printed: Surround | undefined
  asTable: boolean
  onTable: () => void
}) {
  const picture = (form: 'svg' | 'png') => {
    const drawn = svg()
    if (drawn) void savePicture(name, drawn, form, printed)
  }
  return (
    <div className={`absolute -top-0.5 right-0 z-10 ${asTable ? '' : 'take'}`}>
      <Menu
        label={`take ${name}`}
        align="end"
        trigger={
          <button
            type="button"
            className="rounded-sm bg-paper px-1 leading-4 text-muted hover:text-ink"
          >
            <Lines />
          </button>
        }
        entries={[
          { label: asTable ? 'As a picture' : 'As numbers', keys: 'N', run: onTable },
          { label: 'Copy the numbers', run: () => void copyNumbers(numbers()) },
          { label: 'Save the numbers (CSV)', run: () => saveNumbers(name, numbers()) },
          null,
          { label: 'Save the picture (PNG)', disabled: asTable, run: () => picture('png') },
          { label: 'Save the drawing (SVG)', disabled: asTable, run: () => picture('svg') },
        ]}
      />
    </div>
  )
}

/** Rows of numbers, small. */
function Lines() {
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden className="inline">
      {[2.5, 6, 9.5].map((y) => (
        <g key={y} stroke="currentColor" strokeWidth="1.3">
          <line x1="1" x2="4" y1={y} y2={y} />
          <line x1="6" x2="11" y1={y} y2={y} />
        </g>
      ))}
    </svg>
  )
}

function nearest(readings: Reading[], place: number): number | null {
  let best: number | null = null
  readings.forEach(({ at }, index) => {
    const before = best === null ? Infinity : Math.abs((readings[best]?.at ?? 0) - place)
    if (Math.abs(at - place) < before) best = index
  })
  return best
}

function stepOf(key: string, from: number | null, count: number, along: 'x' | 'y'): number | null {
  if (!count) return null
  const [back, on] = along === 'x' ? ['ArrowLeft', 'ArrowRight'] : ['ArrowUp', 'ArrowDown']
  const steps: Record<string, number> = { [back]: -1, [on]: 1, PageUp: -10, PageDown: 10 }
  if (key === 'Home') return 0
  if (key === 'End') return count - 1
  const step = steps[key]
  if (step === undefined) return null
  return from === null ? (step < 0 ? count - 1 : 0) : Math.max(0, Math.min(count - 1, from + step))
}

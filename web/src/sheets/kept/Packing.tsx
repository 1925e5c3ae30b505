// Cells with what is packed into them, to scale; pressed, or with R, the next.
import type { KeyboardEvent } from 'react'
import { useGame } from '@/game/store'
import type { Packed } from './packed'

const CELL = 22

interface PackingProps {
  cells: [number, number]
  packing: Packed
}

export function PackingButton({
  label,
  onAnother,
  ...drawn
}: PackingProps & { label: string; onAnother: (by: number) => void }) {
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'r' || event.key === 'ArrowRight') onAnother(1)
    else if (event.key === 'ArrowLeft') onAnother(-1)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <button
      type="button"
      aria-label={`${label}. R for another`}
      className="shrink-0 cursor-pointer"
      title="another: R"
      onClick={() => onAnother(1)}
      onKeyDown={onKeyDown}
    >
      <PackingDrawn {...drawn} />
    </button>
  )
}

export function PackingDrawn({ cells, packing }: { cells: [number, number]; packing: Packed }) {
  const parts = useGame((state) => state.parts)
  const [columns, rows] = cells
  const size = Math.min(CELL, 360 / columns, 160 / rows)
  return (
    <svg
      width={columns * size + 1}
      height={rows * size + 1}
      aria-hidden
      className="block bg-raised"
    >
      {Array.from({ length: columns + 1 }, (_, at) => (
        <line
          key={`c${at}`}
          x1={at * size + 0.5}
          x2={at * size + 0.5}
          y1="0"
          y2={rows * size}
          stroke="var(--color-hair)"
        />
      ))}
      {Array.from({ length: rows + 1 }, (_, at) => (
        <line
          key={`r${at}`}
          y1={at * size + 0.5}
          y2={at * size + 0.5}
          x1="0"
          x2={columns * size}
          stroke="var(--color-hair)"
        />
      ))}
      {packing.stacks.map((stack, at) => {
        const [wide, high] = stack.turned
          ? [stack.height, stack.width]
          : [stack.width, stack.height]
        const item = parts.item.get(stack.item)
        const tier = parts.tier.get(item?.tier ?? '')
        return (
          <g key={at} transform={`translate(${stack.column * size},${stack.row * size})`}>
            <title>{`${item?.name ?? stack.item} ×${stack.count}${stack.turned ? ', turned' : ''}`}</title>
            <rect
              x="1.5"
              y="1.5"
              width={wide * size - 2}
              height={high * size - 2}
              rx="2"
              fill={tier?.colour ?? 'var(--color-muted)'}
              fillOpacity="0.28"
              stroke={tier?.colour ?? 'var(--color-muted)'}
            />
            <text
              x={(wide * size) / 2}
              y={(high * size) / 2 + 3.5}
              textAnchor="middle"
              fontSize={Math.min(10, size / 2)}
              fill="var(--color-ink)"
              className="num"
            >
              {stack.count > 1 ? stack.count : (item?.name ?? stack.item).slice(0, 1)}
            </text>
          </g>
        )
      })}
    </svg>
  )
}

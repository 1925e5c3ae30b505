// The cells of a cover as a hatch, on a layer of its own: a hand that paints draws on it at once, cell by cell, and
// nothing else of the plan is drawn again meanwhile.
import { useEffect, useLayoutEffect, useRef } from 'react'
import type { Cells } from './edits'

const HATCHES = ['#7a5c9e', '#2f6f9d', '#9d6a2f', '#3f8a5a', '#9d3f5c']
const STRIPE = 7 // from one to the next

export const inkOf = (at: number) => HATCHES[at % HATCHES.length] ?? '#555'

/** Paints or erases a cell of the layer. */
export type PaintCell = (x: number, y: number, on: boolean) => void

interface CoverLayerProps {
  /** Its place among the covers: that chooses ink and slant. */
  at: number
  cells: Cells
  size: number
  columns: number
  rows: number
  /** Counts strokes: what a hand drew and was not kept goes away. */
  strokes: number
  /** Where to find what paints on it. */
  onReady: (paint: PaintCell | null) => void
}

export function CoverLayer({ at, cells, size, columns, rows, strokes, onReady }: CoverLayerProps) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const dense = window.devicePixelRatio || 1
  useLayoutEffect(() => {
    const pen = canvas.current?.getContext('2d')
    if (!pen) return
    pen.setTransform(dense, 0, 0, dense, 0, 0)
    pen.clearRect(0, 0, columns * size, rows * size)
    pen.fillStyle = hatch(pen, at)
    for (const key of cells) {
      const [x = 0, y = 0] = key.split(',').map(Number)
      pen.fillRect(...box(x, y, size))
    }
  }, [at, cells, size, columns, rows, dense, strokes])
  useEffect(() => {
    const pen = canvas.current?.getContext('2d')
    onReady(
      pen
        ? (x, y, on) => {
            pen.clearRect(...box(x, y, size))
            if (on) pen.fillRect(...box(x, y, size))
          }
        : null,
    )
    return () => onReady(null)
  }, [size, onReady])
  return (
    <canvas
      ref={canvas}
      aria-hidden
      className="absolute inset-0"
      width={Math.round(columns * size * dense)}
      height={Math.round(rows * size * dense)}
      style={{ width: columns * size, height: rows * size }}
    />
  )
}

/** A cell in whole pixels, so that cells side by side leave no seam. */
function box(x: number, y: number, size: number): [number, number, number, number] {
  const [left, top] = [Math.round(x * size), Math.round(y * size)]
  return [left, top, Math.round((x + 1) * size) - left, Math.round((y + 1) * size) - top]
}

/** Stripes that run on from cell to cell. */
function hatch(pen: CanvasRenderingContext2D, at: number): CanvasPattern | string {
  const tile = document.createElement('canvas')
  tile.width = tile.height = 2 * STRIPE
  const of = tile.getContext('2d')
  if (!of) return inkOf(at)
  of.globalAlpha = 0.5
  of.fillStyle = inkOf(at)
  of.fillRect(0, 0, 3, 2 * STRIPE)
  const found = pen.createPattern(tile, 'repeat')
  found?.setTransform(new DOMMatrix().rotate(45 + 35 * at).scale(0.5))
  return found ?? inkOf(at)
}

// A plot that runs downward with the plumb line and is read depth by depth: its axis over it, in a frame's head.
import type { ReactNode } from 'react'
import type { Numbers } from '@/ui/table/numbers'
import { AxisHead, shownDepths, type DepthScale } from './DepthFrame'
import { Figure } from './Figure'

interface DepthFigureProps {
  title: string
  /** What it is called, where its head says less. */
  name?: string
  /** What the axis goes from and to. */
  ends: [string, string]
  width: number
  scale: DepthScale
  className?: string
  /** What it says at a depth, a line each; `row` counts from 0. */
  saysAt: (row: number) => string[]
  /** Its columns, by name, and what stands in them at a depth. */
  columns: string[]
  valuesAt: (row: number) => (number | null)[]
  children: ReactNode
}

export function DepthFigure(props: DepthFigureProps) {
  const { title, ends, width, scale, className = 'shrink-0', saysAt, columns, valuesAt } = props
  const name = props.name ?? `${title} by depth`
  const depths = Array.from({ length: scale.to - scale.from + 1 }, (_, row) => scale.from + row)
  const numbers = (): Numbers => ({
    heads: ['depth', ...columns],
    rows: depths.map((depth, row) => [depth, ...valuesAt(row)]),
  })
  return (
    <div className={`relative ${className}`} style={{ marginTop: -34 }}>
      <AxisHead ends={ends} title={title} width={width} />
      <Figure
        name={name}
        says={name}
        width={width}
        height={scale.height}
        isFluid={false}
        along="y"
        across={[0, width]}
        readings={depths.map((depth, row) => ({
          at: scale.y(depth),
          says: [`at ${depth}`, ...saysAt(row)].join('\n'),
        }))}
        numbers={numbers}
        printed={{
          title: name,
          ends,
          rows: shownDepths(scale, scale.from).map((depth) => ({
            at: scale.y(depth),
            says: String(depth),
          })),
        }}
      >
        {props.children}
      </Figure>
    </div>
  )
}

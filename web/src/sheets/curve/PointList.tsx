// The points of a curve as numbers, typed exactly.
import { useState } from 'react'
import type { Curve } from '@/api/types'
import type { Answer } from '@/game/edit'
import { useGame } from '@/game/store'
import { EditText } from '@/ui/EditText'
import { entered, written } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { Problem } from '@/ui/SmallForm'
import { pointsOf, textOf, valueAt, withoutPoint, withPoint, type Points } from './points'

export function PointList({
  curve,
  range,
  onPoints,
}: {
  curve: Curve
  range: [number, number]
  onPoints: (changed: (points: Points) => Points) => Answer
}) {
  const [problem, setProblem] = useState('')
  const depth = useGame((state) => state.depth)
  const points = curve.points as Points
  const typed = (n: number, which: 0 | 1) => (text: string) => {
    const value = typedNumber(text.replace('×', ''))
    if (value === null || value < 0) return { message: 'a number, 0 or more' }
    if (which === 0 && points.some(([d], other) => other !== n && d === value))
      return { message: `there is a point at ${value} already; drag that one` }
    if (which === 0 && (!Number.isInteger(value) || value < range[0] || value > range[1]))
      return { message: `a whole number from ${range[0]} to ${range[1]}` }
    const typed = ([d, v]: [number, number]): [number, number] =>
      which === 0 ? [value, v] : [d, value]
    return onPoints((now) =>
      now.map((point, other) => (other === n ? typed(point) : point)).sort((a, b) => a[0] - b[0]),
    )
  }
  const canAdd = !points.some(([d]) => d === depth)
  return (
    <div
      role="group"
      tabIndex={0}
      aria-label="points of the curve; copy and paste work here"
      className="mb-4"
      onCopy={(event) => {
        event.preventDefault()
        event.clipboardData.setData('text/plain', textOf(points))
      }}
      onPaste={(event) => {
        event.preventDefault()
        const pasted = pointsOf(event.clipboardData.getData('text/plain'), range)
        setProblem(typeof pasted === 'string' ? pasted : '')
        if (typeof pasted !== 'string') void onPoints(() => pasted)
      }}
    >
      <table aria-label="points" className="num">
        <tbody>
          {points.map(([d, value], n) => (
            <tr key={n}>
              <td className="pr-2 text-right">
                <EditText
                  label={`depth of point ${n + 1}`}
                  text={String(d)}
                  className="choice num text-ink"
                  inputClass="num w-14"
                  onCommit={typed(n, 0)}
                />
              </td>
              <td className="pr-2 text-right">
                <EditText
                  label={`multiplier of point ${n + 1}`}
                  text={entered(value)}
                  show={<>×{written(value)}</>}
                  className="choice num text-ink"
                  inputClass="num w-20"
                  onCommit={typed(n, 1)}
                />
              </td>
              <td>
                {points.length > 1 && (
                  <button
                    type="button"
                    aria-label={`take out point ${n + 1}`}
                    className="px-1 text-muted hover:text-bad"
                    onClick={() => void onPoints((now) => withoutPoint(now, n))}
                  >
                    ×
                  </button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button
        type="button"
        disabled={!canAdd}
        className="label hover:text-ink disabled:opacity-60"
        onClick={() => void onPoints((now) => withPoint(now, depth, valueAt(curve, depth)))}
      >
        + a point at {depth}
      </button>
      <p className="label">Rows of a spreadsheet can be pasted over them.</p>
      <Problem>{problem}</Problem>
    </div>
  )
}

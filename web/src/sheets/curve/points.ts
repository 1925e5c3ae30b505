// Points of a curve: pure edits, and curves made of the words people use.
import type { Curve } from '@/api/types'
import { typedNumber } from '@/text/numbers'

export type Points = [number, number][]

const round = (x: number) => Number(x.toPrecision(4))

/** Points in order of depth; of two at one depth the later one stands. */
export function sorted(points: Points): Points {
  return [...new Map([...points].sort((a, b) => a[0] - b[0])).entries()]
}

/** One point elsewhere; it cannot pass its neighbours. */
export function moved(
  points: Points,
  at: number,
  depth: number,
  value: number,
  to: [number, number],
): Points {
  const low = (points[at - 1]?.[0] ?? to[0] - 1) + 1
  const high = (points[at + 1]?.[0] ?? to[1] + 1) - 1
  const kept = Math.min(high, Math.max(low, Math.round(depth)))
  return points.map((point, n) => (n === at ? [kept, round(Math.max(0, value))] : point))
}

export function withoutPoint(points: Points, at: number): Points {
  return points.length > 1 ? points.filter((_, n) => n !== at) : points
}

export function withPoint(points: Points, depth: number, value: number): Points {
  return sorted([...points.filter(([d]) => d !== depth), [depth, round(Math.max(0, value))]])
}

/** Points as rows of a spreadsheet: depth, multiplier. */
export function textOf(points: Points): string {
  return points.map((point) => point.join('\t')).join('\n')
}

/** Rows of a spreadsheet as points, in any order; or why they cannot be. */
export function pointsOf(text: string, [from, to]: [number, number]): Points | string {
  const found: Points = []
  for (const row of text.trim().split(/\r?\n/)) {
    const [depth = NaN, value = NaN] = row.split(/\t|;/).map((cell) => typedNumber(cell) ?? NaN)
    if (!Number.isInteger(depth) || !(value >= 0))
      return `“${row.slice(0, 40)}” is no depth and multiplier; two columns are wanted`
    if (depth < from || depth > to) return `depths go from ${from} to ${to}, not ${depth}`
    if (found.some(([other]) => other === depth)) return `depth ${depth} stands twice`
    found.push([depth, value])
  }
  return sorted(found)
}

/** The curve's value at any depth, as it is drawn; the server's is the one that counts. */
export function valueAt(curve: Pick<Curve, 'shape' | 'points'>, depth: number): number {
  const points = curve.points as Points
  const first = points[0] ?? [1, 1]
  const last = points.at(-1) ?? first
  if (depth <= first[0]) return first[1]
  if (depth >= last[0]) return last[1]
  const at = points.findIndex(([d]) => d > depth) - 1
  const [d0, v0] = points[at] ?? first
  const [d1, v1] = points[at + 1] ?? last
  if (curve.shape === 'step') return v0
  const t = (depth - d0) / (d1 - d0)
  if (curve.shape === 'line' || points.length < 3) return v0 + t * (v1 - v0)
  return hermite(points, at, t)
}

/** PCHIP: a cubic between two points whose slopes never overshoot (Fritsch and Butland 1984). */
function hermite(points: Points, at: number, t: number): number {
  const [d0, v0] = points[at] as [number, number]
  const [d1, v1] = points[at + 1] as [number, number]
  const h = d1 - d0
  const [m0, m1] = [slope(points, at), slope(points, at + 1)]
  const a = (1 + 2 * t) * (1 - t) ** 2
  const b = t * (1 - t) ** 2
  const c = t * t * (3 - 2 * t)
  const d = t * t * (t - 1)
  return Math.max(0, a * v0 + b * h * m0 + c * v1 + d * h * m1)
}

function slope(points: Points, at: number): number {
  const step = (n: number) => {
    const [d0, v0] = points[n] as [number, number]
    const [d1, v1] = points[n + 1] as [number, number]
    return { h: d1 - d0, s: (v1 - v0) / (d1 - d0) }
  }
  const last = points.length - 1
  if (at > 0 && at < last) {
    const [left, right] = [step(at - 1), step(at)]
    if (left.s * right.s <= 0) return 0
    const [w1, w2] = [2 * right.h + left.h, right.h + 2 * left.h]
    return (w1 + w2) / (w1 / left.s + w2 / right.s)
  }
  const [near, far] = at === 0 ? [step(0), step(1)] : [step(last - 1), step(last - 2)]
  const m = ((2 * near.h + far.h) * near.s - near.h * far.s) / (near.h + far.h)
  if (Math.sign(m) !== Math.sign(near.s)) return 0
  if (Math.sign(near.s) !== Math.sign(far.s) && Math.abs(m) > 3 * Math.abs(near.s))
    return 3 * near.s
  return m
}

export const PHRASES = [
  'doubles every 5',
  'halves every 10',
  'from 0.2 at 1 to 3 at 30',
  'falls from 1 to 0.3',
  'rises to 2',
  'only from 12 on',
  'only up to 12',
  'peaks at 18',
  'the same everywhere',
]

type Made = Pick<Curve, 'shape' | 'points'>

/** A curve said in words, or null where the words are none of ours. */
export function curveOfWords(words: string, from: number, to: number): Made | null {
  const text = words.trim().toLowerCase().replace(/,/g, '.')
  const number = '(\\d+(?:\\.\\d+)?)'
  const match = (pattern: string) =>
    new RegExp(`^${pattern.replaceAll('#', number)}( \\w+)?$`).exec(text)?.map(Number)
  const times = match('doubles every #') ?? match('halves every #')
  if (times) return growing(from, to, times[1] ?? 1, text.startsWith('halves') ? 0.5 : 2)
  const span = match('from # at # to # at #')
  if (span) {
    const [, v0 = 1, d0 = from, v1 = 1, d1 = to] = span
    return d0 < d1
      ? {
          shape: 'line',
          points: sorted([
            [d0, v0],
            [d1, v1],
          ]),
        }
      : null
  }
  // From one end of the depths to the other: “falls from 1 to 0.3”, “rises to 2”.
  const ends =
    match('(?:falls|rises|goes|grows|drops|sinks) from # to #') ??
    match('(?:falls|rises|goes|grows|drops|sinks) to #')
  if (ends) {
    const [, v0 = 1, v1] = ends
    const [start, end] = v1 === undefined || Number.isNaN(v1) ? [1, v0] : [v0, v1]
    return {
      shape: 'line',
      points: sorted([
        [from, start],
        [to, end],
      ]),
    }
  }
  const on = match('only from # on')?.[1]
  if (on !== undefined)
    return on > from
      ? {
          shape: 'step',
          points: [
            [from, 0],
            [on, 1],
          ],
        }
      : same(from)
  const up = match('only up to #')?.[1]
  if (up !== undefined)
    return up < to
      ? {
          shape: 'step',
          points: [
            [from, 1],
            [up + 1, 0],
          ],
        }
      : same(from)
  const peak = match('peaks at #')?.[1]
  if (peak !== undefined && peak >= from && peak <= to)
    return {
      shape: 'ease',
      points: sorted([
        [from, 0.1],
        [peak, 1],
        [to, 0.1],
      ]),
    }
  return /^the same( everywhere)?$/.test(text) ? same(from) : null
}

const same = (from: number): Made => ({ shape: 'line', points: [[from, 1]] })

/** A point at every so many depths, each so many times the last. */
function growing(from: number, to: number, every: number, factor: number): Made | null {
  if (every < 1) return null
  const points: Points = []
  for (let d = from; d <= to; d += every)
    points.push([Math.round(d), factor ** ((d - from) / every)])
  if (points.at(-1)?.[0] !== to) points.push([to, factor ** ((to - from) / every)])
  return { shape: 'ease', points: sorted(points.map(([d, v]) => [d, round(v)])) }
}

// What can be put in order without a question: bands that leave the game's depths, and points of curves
// that are unsorted or at one depth twice.
import type { Band, Curve } from '@/api/types'

/** What lies outside the game's depths is cut off; a band that is nowhere within them goes. */
export const bandsWithin = (bands: Band[], first: number, last: number): Band[] =>
  bands
    .map((band) => ({ ...band, from: Math.max(band.from, first), to: Math.min(band.to, last) }))
    .filter((band) => band.from <= band.to)

/** Points from the top down; of several at one depth the one that is written last. */
function pointsInOrder(points: Curve['points']): Curve['points'] {
  return [...new Map(points.map((point) => [point[0], point])).values()].sort((a, b) => a[0] - b[0])
}

/** A game file's text put in order; null where it is, or where it is no file of a game at all. */
export function fileInOrder(text: string): string | null {
  try {
    const data = JSON.parse(text)
    const before = JSON.stringify(data)
    if (Array.isArray(data.depth?.bands))
      data.depth.bands = bandsWithin(data.depth.bands, data.depth.from ?? 1, data.depth.to ?? 1)
    for (const curve of Array.isArray(data.curves) ? data.curves : [])
      if (Array.isArray(curve.points)) curve.points = pointsInOrder(curve.points)
    const after = JSON.stringify(data)
    return after === before ? null : after
  } catch {
    return null
  }
}

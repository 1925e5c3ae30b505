// A boundary of the strip, dragged: chance moves between two neighbours.
import type { Table, TableOdds } from '@/api/types'
import { change, Gesture, sketch, sketchOf } from '@/game/edit'
import { withBoundary } from './lines'

interface Dragged {
  boundary: string
  /** The game, and its odds, as they were when the drag began: the move is told against them. */
  gesture: Gesture
  odds: TableOdds
}

let dragged: Dragged | null = null

export function moveBoundary(
  table: string,
  odds: TableOdds,
  [left, right]: [string, string],
  by: number,
  isDone: boolean,
): void {
  const boundary = `${table}/${left}/${right}`
  // While a drag goes on, odds on screen follow the draft.
  if (dragged?.boundary !== boundary) dragged = { boundary, gesture: new Gesture(), odds }
  const began = dragged
  began.gesture.within(() => {
    const moved = (now: Table) => withBoundary(now, began.odds, left, right, by)
    if (!isDone) return sketchOf('table', table, moved)
    void change('table', table, 'moved a boundary', moved)
    sketch(null)
  })
  if (isDone) dragged = null
}

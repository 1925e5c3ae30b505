// A boundary of the strip, dragged: chance moves between two neighbours.
import type { SheetOdds, Table } from '@/api/types'
import { commit } from '@/game/sync'
import { setDraft } from '@/game/store'
import { tableEntry, withBoundary } from './lines'

let dragging = ''

export function moveBoundary(
  table: Table,
  odds: SheetOdds['tables'][string],
  left: string,
  right: string,
  by: number,
  done: boolean,
) {
  const key = `${table.id}/${left}/${right}`
  // While a drag goes on, odds on screen follow the draft; the move is told against its beginning.
  if (dragging !== key) {
    dragging = key
    began = { table, odds }
  }
  const next = tableEntry(withBoundary(began.table, began.odds, left, right, by))
  if (!done) return setDraft([next])
  dragging = ''
  void commit(`moved a boundary of ${table.name}`, [next]).then(() => setDraft([]))
}

let began: { table: Table; odds: SheetOdds['tables'][string] }

// Where one is in a table, and the block that is chosen from there: arrows, Shift, Home, End, all.
import { useRef, useState, type KeyboardEvent } from 'react'
import { blockOf, inBlock, type Place } from '../grid/columns'

const HEAD = -1 // the row of heads

export function useBlock(rows: number, columns: number) {
  const ref = useRef<HTMLTableElement>(null)
  const isGoing = useRef(false) // the focus is put where the keys lead
  const [held, setHeld] = useState<Place>({ row: 0, column: 0 })
  const [anchor, setAnchor] = useState<Place | null>(null)
  // Rows may have gone since.
  const at = { row: Math.min(held.row, rows - 1), column: Math.min(held.column, columns - 1) }
  const block = anchor ? blockOf(anchor, at) : blockOf(at, at)

  const go = (to: Place, reach: boolean) => {
    const from = anchor ?? at
    const place = {
      row: within(to.row, reach ? 0 : HEAD, rows - 1),
      column: within(to.column, 0, columns - 1),
    }
    setAnchor(reach ? from : null)
    setHeld(place)
    isGoing.current = true
    ref.current?.querySelector<HTMLElement>(`[data-place="${place.row},${place.column}"]`)?.focus()
    isGoing.current = false
  }

  return {
    ref,
    at,
    inHead: at.row === HEAD,
    tabIndex: (row: number, column: number) => (row === at.row && column === at.column ? 0 : -1),
    isChosen: (row: number, column: number) => anchor !== null && inBlock(block, row, column),
    chosen: () => ({ ...block, top: Math.max(block.top, 0) }),
    chooseAll: () => {
      setAnchor({ row: 0, column: 0 })
      setHeld({ row: rows - 1, column: columns - 1 })
    },
    /** The focus came here, by whatever way. */
    come: (row: number, column: number) => {
      if (isGoing.current || (row === at.row && column === at.column)) return
      setHeld({ row, column })
      setAnchor(null)
    },
    reach: (row: number, column: number) => go({ row, column }, true),
    /** Where a key leads; false where it leads nowhere. */
    move: (event: KeyboardEvent): boolean => {
      const step = STEPS[event.key]
      if (event.key === 'Escape' && anchor) setAnchor(null)
      else if (event.key === 'Home')
        go({ row: event.ctrlKey ? 0 : at.row, column: 0 }, event.shiftKey)
      else if (event.key === 'End')
        go({ row: event.ctrlKey ? rows - 1 : at.row, column: columns - 1 }, event.shiftKey)
      else if (step) go({ row: at.row + step.row, column: at.column + step.column }, event.shiftKey)
      else return false
      return true
    },
  }
}

const PAGE = 10
const STEPS: Record<string, Place | undefined> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
  PageUp: { row: -PAGE, column: 0 },
  PageDown: { row: PAGE, column: 0 },
}

const within = (x: number, low: number, high: number) => Math.max(low, Math.min(high, x))

// What a key does in a grid, as the W3C pattern says, and as spreadsheets do.
import type { KeyboardEvent, SyntheticEvent } from 'react'
import { startsNumber, takesLetters, type Block, type Column, type Place } from './columns'

export type KeyAct =
  | { do: 'go'; to: Place; extend: boolean }
  | { do: 'move'; by: number }
  | { do: 'menu' | 'copy' | 'fill down' | 'remove' | 'open' | 'nothing' }
  | { do: 'type'; text: string }

/** Null where the key is none of the grid's. */
export function actOf<Row>(
  event: KeyboardEvent,
  at: Place,
  block: Block,
  columns: Column<Row>[],
): KeyAct | null {
  const ctrl = event.ctrlKey || event.metaKey
  const step = STEPS[event.key]
  if (step && event.altKey) return step.row ? { do: 'move', by: step.row } : { do: 'nothing' }
  if (step) {
    const far = ctrl ? 1_000_000 : 1
    const to = { row: at.row + step.row * far, column: at.column + step.column * far }
    return { do: 'go', to, extend: event.shiftKey }
  }
  if (event.key === 'ContextMenu' || (event.key === 'F10' && event.shiftKey)) return { do: 'menu' }
  if (event.key === 'Tab') {
    const column = at.column + (event.shiftKey ? -1 : 1)
    const leaves = column < 0 || column >= columns.length
    return leaves ? null : { do: 'go', to: { row: at.row, column }, extend: false }
  }
  if (ctrl && event.key.toLowerCase() === 'd')
    return { do: block.bottom > block.top ? 'fill down' : 'copy' }
  if (event.key === 'Delete') return { do: 'remove' }
  if (event.key === 'Enter' || event.key === 'F2') return { do: 'open' }
  return typed(event, columns[at.column]) ? { do: 'type', text: event.key } : null
}

function typed<Row>(event: KeyboardEvent, column: Column<Row> | undefined): boolean {
  if (!column || event.key.length !== 1) return false
  if (event.ctrlKey || event.metaKey || event.altKey) return false
  return takesLetters(column) || startsNumber(column, event.key)
}

/** Menus and popovers stand elsewhere on the page, though React hands their events on; and a field within
 * a cell has keys and a clipboard of its own. */
export function isOwn(event: SyntheticEvent): boolean {
  const target = event.target as HTMLElement
  return event.currentTarget.contains(target) && !target.closest('input, textarea, select')
}

/** Enter and space on a button within a cell press it. */
export function isPressed(event: KeyboardEvent): boolean {
  const isPress = event.key === 'Enter' || event.key === ' '
  return isPress && (event.target as HTMLElement).closest('button, a') !== null
}

const STEPS: Record<string, Place> = {
  ArrowUp: { row: -1, column: 0 },
  ArrowDown: { row: 1, column: 0 },
  ArrowLeft: { row: 0, column: -1 },
  ArrowRight: { row: 0, column: 1 },
}

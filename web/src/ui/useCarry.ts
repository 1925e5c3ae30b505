// A row that is carried by its handle to another place among its like. Escape puts it back.
import { useDrag } from '@use-gesture/react'
import { useRef } from 'react'

interface Carrying {
  at: number
  /** The place to which it has been carried: so many pixels down, the pointer at `y`. */
  placeOf: (carried: { by: number; y: number; grip: Element }) => number
  /** The place where it would go now; null when it is let go. */
  onOver: (to: number | null) => void
  onMoved: (to: number) => void
}

export function useCarry({ at, placeOf, onOver, onMoved }: Carrying) {
  const deaf = useRef<() => void>(() => undefined)
  return useDrag(
    ({ first, last, canceled, cancel, movement: [, by], xy: [, y], currentTarget }) => {
      if (first) deaf.current = onEscape(cancel)
      const to = placeOf({ by, y, grip: currentTarget as Element })
      onOver(last ? null : to)
      if (!last) return
      deaf.current()
      if (!canceled && to !== at) onMoved(to)
    },
    { filterTaps: true, pointer: { keys: false } },
  )
}

/** Gives what ends it. */
function onEscape(act: () => void): () => void {
  const hear = (event: KeyboardEvent) => {
    if (event.key !== 'Escape') return
    event.stopPropagation()
    act()
  }
  window.addEventListener('keydown', hear, true)
  return () => window.removeEventListener('keydown', hear, true)
}

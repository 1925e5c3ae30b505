// Of many rows only those are drawn that are seen, and the one where the keyboard is.
import { defaultRangeExtractor, useVirtualizer } from '@tanstack/react-virtual'
import { useCallback, useLayoutEffect, useState, type RefObject } from 'react'
import { ROW } from './RowGrip'

const MOST_AT_ONCE = 60

export interface Drawn {
  at: number
  /** From the top of the first row, in pixels; null where all rows are drawn one below the other. */
  top: number | null
}

/** `row`: how high each is; `overscan`: how many more are drawn at either end; `atOnce`: up to so many are all drawn; `above`: what may change its height above the rows, in whatever scrolls. */
export function useWindow(
  root: RefObject<HTMLElement | null>,
  count: number,
  active: number,
  { row = ROW, above = 'main, main > *', overscan = 10, atOnce = MOST_AT_ONCE } = {},
) {
  // Until it is known where the rows begin none is drawn: all that is drawn would be drawn twice.
  const [margin, setMargin] = useState<number | null>(null)
  const isMany = count > atOnce
  const scroller = useCallback(() => scrollerOf(root.current), [root])
  const window = useVirtualizer({
    count,
    getScrollElement: scroller,
    estimateSize: () => row,
    overscan,
    scrollMargin: margin ?? 0,
    enabled: isMany,
    rangeExtractor: (range) => {
      const seen = defaultRangeExtractor(range)
      if (active < 0 || seen.includes(active)) return seen
      return [...seen, active].sort((one, other) => one - other)
    },
  })
  // What stands above may grow.
  useLayoutEffect(() => {
    const [own, outer] = [root.current, scroller()]
    if (!own || !outer || !isMany) return
    const measure = () => {
      const start = own.getBoundingClientRect().top - outer.getBoundingClientRect().top
      setMargin(Math.round(start + outer.scrollTop))
    }
    const watch = new ResizeObserver(measure)
    for (const part of outer.querySelectorAll(above)) watch.observe(part)
    measure()
    return () => watch.disconnect()
  }, [root, scroller, isMany, above])
  const drawn: Drawn[] = isMany
    ? margin === null
      ? []
      : window.getVirtualItems().map((one) => ({ at: one.index, top: one.start - margin }))
    : Array.from({ length: count }, (_, at) => ({ at, top: null }))
  return {
    drawn,
    height: isMany ? window.getTotalSize() : undefined,
    bringInView: (at: number) => isMany && window.scrollToIndex(at),
  }
}

function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  return element?.closest<HTMLElement>('[data-scrolls]') ?? null
}

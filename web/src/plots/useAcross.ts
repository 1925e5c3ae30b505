// Of many columns only those are drawn that are seen, and as many again on either side: more come only once that
// room is used up, and without holding up the frames in between. (A library's window draws at every column.)
import { startTransition, useLayoutEffect, useState, type RefObject } from 'react'

const MOST_AT_ONCE = 60
export const STEP = 4 // columns that come and go together

/** The first column that is drawn, and the one after the last; all are `width` px wide. `before`: how wide
 * what stands in front of them in the same row is. */
export function useAcross(
  root: RefObject<HTMLElement | null>,
  count: number,
  width: number,
  before: number,
): [number, number] {
  const [drawn, setDrawn] = useState<[number, number]>([0, 0])
  const isMany = count > MOST_AT_ONCE
  useLayoutEffect(() => {
    const own = root.current
    const outer = own?.closest<HTMLElement>('[data-scrolls-across]')
    if (!own || !outer || !isMany) return
    const measured = (): [number, number] => {
      const box = outer.getBoundingClientRect()
      const left = (box.left - own.getBoundingClientRect().left - before) / width
      const first = STEP * Math.floor(left / STEP - 1)
      const end = STEP * Math.ceil((left + box.width / width) / STEP + 1)
      return [Math.max(0, first), Math.max(0, Math.min(count, end))]
    }
    const draw = () => {
      const now = measured()
      setDrawn((was) => (was[0] === now[0] && was[1] === now[1] ? was : now))
    }
    const scrolled = () => startTransition(draw)
    outer.addEventListener('scroll', scrolled, { passive: true })
    const watch = new ResizeObserver(draw) // what stands to the left of it comes and goes
    watch.observe(outer)
    watch.observe(own.parentElement ?? own)
    draw()
    return () => {
      outer.removeEventListener('scroll', scrolled)
      watch.disconnect()
    }
  }, [root, isMany, count, width, before])
  return isMany ? drawn : [0, count]
}

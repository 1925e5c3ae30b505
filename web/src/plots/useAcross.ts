// Of many columns only those are drawn that are seen, and a few on either side: stretches of some columns, of
// which the one that is left behind becomes the next one ahead. So nothing is made or thrown away as one
// scrolls, only written anew. (A library's window draws at every column.)
import {
  startTransition,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type RefObject,
} from 'react'

const MOST_AT_ONCE = 60
const STEP = 3 // columns of a stretch
const BESIDE = 2 // stretches more than are seen

export type Stretch = readonly [from: number, end: number]

/** The stretches of columns that are drawn, each in a place of its own as long as it is there, not in order; all
 * columns are `width` px wide. `before`: how wide what stands in front of them in the same row is. */
export function useAcross(
  root: RefObject<HTMLElement | null>,
  count: number,
  width: number,
  before: number,
): Stretch[] {
  const [[first, many], setDrawn] = useState<[number, number]>([0, 0])
  const isMany = count > MOST_AT_ONCE
  useLayoutEffect(() => {
    const own = root.current
    const outer = own?.closest<HTMLElement>('[data-scrolls-across]')
    if (!own || !outer || !isMany) return
    let drawn = ''
    const draw = (write: (drawing: () => void) => void) => {
      const box = outer.getBoundingClientRect()
      const left = (box.left - own.getBoundingClientRect().left - before) / width
      const many = Math.ceil(box.width / width / STEP) + BESIDE
      const last = Math.ceil(count / STEP) - many
      const first = Math.max(0, Math.min(last, Math.floor(left / STEP - BESIDE / 2 + 0.5)))
      if (drawn === `${first} ${many}`) return
      drawn = `${first} ${many}`
      write(() => setDrawn([first, many]))
    }
    const scrolled = () => draw(startTransition)
    const sized = () => draw((drawing) => drawing())
    outer.addEventListener('scroll', scrolled, { passive: true })
    const watch = new ResizeObserver(sized) // what stands to the left of it comes and goes
    watch.observe(outer)
    watch.observe(own.parentElement ?? own)
    sized()
    return () => {
      outer.removeEventListener('scroll', scrolled)
      watch.disconnect()
    }
  }, [root, isMany, count, width, before])
  return useMemo(
    () => (isMany ? inPlaces(first, many, count) : [[0, count]]),
    [isMany, first, many, count],
  )
}

/** So many stretches from the first on, each in the place of its number's rest. */
function inPlaces(first: number, many: number, count: number): Stretch[] {
  return Array.from({ length: many }, (_, place) => {
    const number = first + ((((place - first) % many) + many) % many)
    return [Math.min(count, number * STEP), Math.min(count, (number + 1) * STEP)] as const
  })
}

/** What is given, so many frames later; what came in between is passed over. */
export function useLater<T>(given: T, frames: number): T {
  const [heard, hear] = useState(given)
  const newest = useRef(given)
  const waiting = useRef(0)
  useEffect(() => {
    newest.current = given
    if (frames === 0 || waiting.current) return
    let left = frames
    const step = () => {
      waiting.current = --left > 0 ? requestAnimationFrame(step) : 0
      if (left === 0) hear(newest.current)
    }
    waiting.current = requestAnimationFrame(step)
  }, [given, frames])
  useEffect(
    () => () => {
      cancelAnimationFrame(waiting.current)
      waiting.current = 0
    },
    [],
  )
  return frames === 0 ? given : heard
}

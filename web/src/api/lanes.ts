// One question of a kind at a time. While a point is dragged, answers are asked for faster than they
// come; the server would go on with all that nobody waits for any more. So a question waits for the one
// before it, and is not asked at all once nobody wants its answer.
const lanes = new Map<string, Promise<unknown>>()
const askedAt = new Map<string, number>()

/** `apart`: how long after the question before it this one is asked at the earliest, in ms. */
export async function inTurn<T>(
  lane: string,
  signal: AbortSignal,
  ask: () => Promise<T>,
  apart = 0,
): Promise<T> {
  const before = lanes.get(lane) ?? Promise.resolve()
  const mine = before.then(async () => {
    const early = (askedAt.get(lane) ?? -Infinity) + apart - performance.now()
    if (early > 0 && !signal.aborted) await new Promise((rest) => setTimeout(rest, early))
    if (signal.aborted) throw new DOMException('no longer wanted', 'AbortError')
    askedAt.set(lane, performance.now())
    return ask()
  })
  const done = mine.catch(() => undefined)
  lanes.set(lane, done)
  void done.then(() => lanes.get(lane) === done && lanes.delete(lane))
  return mine
}

/** A little after the lane has nothing on its way: the answer has to reach the screen first. */
export function whenFree(lane: string, run: () => void): void {
  const busy = lanes.get(lane)
  if (busy) void busy.then(() => setTimeout(() => whenFree(lane, run), SHOWN))
  else run()
}

const SHOWN = 0

export const isBusy = (lane: string) => lanes.has(lane)

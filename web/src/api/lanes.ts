// One question of a kind at a time. While a point is dragged, answers are asked for faster than they
// come; the server would go on with all that nobody waits for any more. So a question waits for the one
// before it, and is not asked at all once nobody wants its answer.
const lanes = new Map<string, Promise<unknown>>()
const last = new Map<string, { asked: number; took: number }>()

/** How long after one question the next of its kind is asked at the earliest. */
export interface Pace {
  /** In ms. */
  apart: number
  /** In times as long as the last one took, so that what takes long leaves the server to the rest. */
  rest: number
}

export async function inTurn<T>(
  lane: string,
  signal: AbortSignal,
  ask: () => Promise<T>,
  pace?: Pace,
): Promise<T> {
  const before = lanes.get(lane) ?? Promise.resolve()
  const mine = before.then(async () => {
    const early = pace ? earliest(lane, pace) - performance.now() : 0
    if (early > 0 && !signal.aborted) await new Promise((rest) => setTimeout(rest, early))
    if (signal.aborted) throw new DOMException('no longer wanted', 'AbortError')
    const asked = performance.now()
    last.set(lane, { asked, took: 0 })
    const answer = await ask()
    last.set(lane, { asked, took: performance.now() - asked })
    return answer
  })
  const done = mine.catch(() => undefined)
  lanes.set(lane, done)
  void done.then(() => lanes.get(lane) === done && lanes.delete(lane))
  return mine
}

function earliest(lane: string, { apart, rest }: Pace): number {
  const before = last.get(lane)
  return before ? before.asked + Math.max(apart, rest * before.took) : -Infinity
}

/** A little after the lane has nothing on its way: the answer has to reach the screen first. */
export function whenFree(lane: string, run: () => void): void {
  const busy = lanes.get(lane)
  if (busy) void busy.then(() => setTimeout(() => whenFree(lane, run)))
  else run()
}

export const isBusy = (lane: string) => lanes.has(lane)

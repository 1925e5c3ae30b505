// One question of a kind at a time. While a point is dragged, answers are asked for faster than they
// come; the server would go on with all that nobody waits for any more. So a question waits for the one
// before it, and is not asked at all once nobody wants its answer.
//
// A question can also be asked ahead: while one answer is drawn the server is at work on the next.
const lanes = new Map<string, Promise<unknown>>()
const last = new Map<string, { asked: number; took: number }>()
const early = new Map<string, Early>()
const answered = new Map<string, string>() // the key of the question that each lane asked last

/** How long after one question the next of its kind is asked at the earliest. */
export interface Pace {
  /** In ms. */
  apart: number
  /** In times as long as the last one took, so that what takes long leaves the server to the rest. */
  rest: number
}

/** A question that was asked ahead; it is taken up by whoever asks the same. */
interface Early {
  key: string
  answer: Promise<unknown>
  gone: Promise<void>
  leave: () => void
}

const MOST_EARLY = 300 // ms after which nobody will come for it any more

interface Question<T> {
  pace?: Pace
  /** Which question it is, so that one that was asked ahead is known again. */
  key?: string
  /** Hears the answer before the next question's turn, also where nobody waits for it any more. */
  onAnswer?: (answer: T) => void
}

export async function inTurn<T>(
  lane: string,
  signal: AbortSignal,
  ask: () => Promise<T>,
  { pace, key, onAnswer }: Question<T> = {},
): Promise<T> {
  const before = lanes.get(lane) ?? Promise.resolve()
  const ahead = taken<T>(lane, key)
  answered.set(lane, key ?? '')
  const mine = before.then(async () => {
    const soon = pace ? earliest(lane, pace) - performance.now() : 0
    if (soon > 0 && !signal.aborted) await new Promise((rest) => setTimeout(rest, soon))
    if (signal.aborted) throw new DOMException('no longer wanted', 'AbortError')
    const asked = performance.now()
    last.set(lane, { asked, took: 0 })
    const answer = await (ahead ?? ask())
    onAnswer?.(answer)
    last.set(lane, { asked, took: performance.now() - asked })
    return answer
  })
  keep(lane, mine)
  return mine
}

/**
 * Ask what will be wanted next, once the lane is free: the answer waits for whoever asks the same. What
 * has just been answered is not asked again: nobody would come for it.
 */
export function askAhead(lane: string, key: string, ask: () => Promise<unknown>): void {
  if (answered.get(lane) === key) return
  early.get(lane)?.leave()
  let leave = () => {}
  const gone = new Promise<void>((resolve) => (leave = resolve))
  const answer = ask()
  answer.catch(() => undefined)
  const mine = { key, answer, gone, leave }
  early.set(lane, mine)
  void gone.then(() => early.get(lane) === mine && early.delete(lane))
  setTimeout(leave, MOST_EARLY)
}

/** What was asked ahead is wanted no more. */
export function forget(lane: string): void {
  early.get(lane)?.leave()
}

function taken<T>(lane: string, key: string | undefined): Promise<T> | undefined {
  const found = early.get(lane)
  found?.leave()
  early.delete(lane)
  return found && found.key === key ? (found.answer as Promise<T>) : undefined
}

function keep(lane: string, mine: Promise<unknown>): void {
  const done = mine.catch(() => undefined)
  lanes.set(lane, done)
  void done.then(() => lanes.get(lane) === done && lanes.delete(lane))
}

function earliest(lane: string, { apart, rest }: Pace): number {
  const before = last.get(lane)
  return before ? before.asked + Math.max(apart, rest * before.took) : -Infinity
}

/** As soon as the lane has nothing on its way and nothing that was asked ahead. */
export function whenFree(lane: string, run: () => void): void {
  const busy = early.get(lane)?.gone ?? lanes.get(lane)
  if (busy) void busy.then(() => whenFree(lane, run))
  else run()
}

export const isBusy = (lane: string) => lanes.has(lane) || early.has(lane)

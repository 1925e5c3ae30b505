// How long players wait for a first one, in a sentence that is true of the answer it is made from: what nobody
// waits for is not told of one in a hundred, and what was not come to in play is not told as never.
import type { WaitOut } from '@/api/types'
import { whole } from '@/text/format'

export type Sure = 50 | 90 | 99
/** Words, or by which event so many have one, with what stands right after it. */
export type Piece = string | { sure: Sure; after: string }

type Told = Pick<WaitOut, 'method' | 'first_50' | 'first_90' | 'first_99' | 'more_than' | 'all'>

const SURE: Sure[] = [50, 90, 99]

export function waitSentence(
  wait: Told,
  words: { one: string; many: string },
  player: string,
): Piece[] {
  const { one } = words
  if (wait.method === 'untold')
    return [`How long ${player}s wait is not told: they can be in too many states.`]
  const known = SURE.filter((sure) => wait[`first_${sure}`] !== null)
  const pieces: Piece[] = []
  const last = known.at(-1)
  known.forEach((sure) => {
    const later = SURE.find((other) => other > sure)
    // What as many as the next have by then is told of those.
    if (later && wait[`first_${later}`] === wait[`first_${sure}`]) return
    const isFirst = !pieces.length
    const isAll = sure === 99 && wait.all
    if (isFirst)
      pieces.push(
        isAll ? `Every ${player} has one by ${one} ` : `${many(sure, player)} have one by ${one} `,
      )
    else if (isAll) pieces.push(' everyone by ')
    else if (sure === 99) pieces.push(' one in a hundred still waits at ')
    else pieces.push(` ${WORDS[sure]} by `)
    pieces.push({ sure, after: sure !== last ? ',' : known.length === SURE.length ? '.' : ';' })
  })
  const first = SURE.find((sure) => wait[`first_${sure}`] === null)
  return first ? [...pieces, ...rest(wait, first, pieces.length > 0, words.many, player)] : pieces
}

const WORDS = { 50: 'half', 90: 'nine in ten', 99: '99 in a hundred' }

function many(sure: Sure, player: string): string {
  return {
    50: `Half of ${player}s`,
    90: `Nine in ten ${player}s`,
    99: `99 in a hundred ${player}s`,
  }[sure]
}

/** Of those of whom it is not told by when they have one. */
function rest(wait: Told, sure: Sure, isMore: boolean, events: string, player: string): Piece[] {
  const beyond = wait.more_than[`first_${sure}`]
  if (beyond !== undefined) {
    const told = `more than ${whole(beyond)} ${events}`
    if (isMore) return [` until ${WORDS[sure]} have one it takes ${told}.`]
    return [`Until half of ${player}s have one it takes ${told}.`]
  }
  if (isMore) return [` fewer than ${WORDS[sure]} ever have one.`]
  return [`Fewer than half of ${player}s ever have one.`]
}

/** What comes of it later, where what players carry changes it: after "one in so many". */
export function laterWords(
  wait: Pick<WaitOut, 'long_run_mean' | 'late_mean' | 'p_any' | 'without'>,
): 'alike' | 'ends' | 'long run' | 'late' | 'untold' {
  if (wait.late_mean !== null) return 'late'
  if (wait.long_run_mean === null) return 'untold'
  if (!wait.without.length || Math.abs(wait.long_run_mean - wait.p_any) < 1e-9) return 'alike'
  return wait.long_run_mean <= 0 ? 'ends' : 'long run'
}

// Finding by name, among thousands: what begins like it, then what has a word that does, then what has it anywhere,
// then what has its letters in this order.

export interface Named {
  name: string
  /** What else it is called: found by that too, after what has the name itself. */
  also?: string[]
}

export interface Matches<One> {
  found: One[]
  /** How many more there are. */
  more: number
  /** How well the best fits: 0 best. */
  best: number
}

/** The best of them, at most so many; all words have to be in a name, in any order. */
export function matching<One extends Named>(list: One[], text: string, most: number): Matches<One> {
  const words = plain(text).split(' ').filter(Boolean)
  if (!words.length)
    return { found: list.slice(0, most), more: Math.max(0, list.length - most), best: 0 }
  const ranks: One[][] = [[], [], [], []]
  for (const one of list) {
    const rank = bestRank(one, words)
    if (rank !== null) ranks[rank]?.push(one)
  }
  const found = ranks.flat()
  const best = ranks.findIndex((rank) => rank.length)
  return { found: found.slice(0, most), more: Math.max(0, found.length - most), best }
}

function bestRank({ name, also = [] }: Named, words: string[]): number | null {
  const own = rankOf(plain(name), words)
  if (own === 0) return 0
  const other = also.some((one) => (rankOf(plain(one), words) ?? 3) <= 1) ? 1 : null
  return own === null ? other : Math.min(own, other ?? own)
}

/** 0 for the best; null where it does not fit at all. */
export function rankOf(name: string, words: string[]): number | null {
  const whole = words.join(' ')
  if (name.startsWith(whole)) return 0
  if (words.every((word) => name.startsWith(word) || name.includes(` ${word}`))) return 1
  if (words.every((word) => name.includes(word))) return 2
  return inOrder(name, words.join('')) ? 3 : null
}

function inOrder(name: string, letters: string): boolean {
  if (letters.length < 4) return false // a few letters are in nearly every name
  let at = 0
  for (const letter of name) if (letter === letters[at]) at += 1
  return at === letters.length
}

const plain = (text: string) => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase()

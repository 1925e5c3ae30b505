// Fields read as people write them: spans of time, ranges of depth, cells, quantities, prices. What is not
// understood is answered with what is; hints say the same beforehand.
import { readNumber } from './numbers'

/** What can be said in a field, as its suggestion. */
export const HINTS = {
  span: '90, 10 min, 1h30 or 2 days',
  range: '4-30, 8+, up to 12, 4 or all',
  cells: '4 × 3, or 12 for as many',
  quantity: '3, 1-3, 6-12 step 2 or 2d6+1',
  price: '150, or 150 and the name of what it is paid in',
} as const

// --- time --------------------------------------------------------------------------------------------------

const UNITS: [RegExp, number][] = [
  [/^(s|sec|secs|seconds?)$/, 1],
  [/^(m|min|mins|minutes?)$/, 60],
  [/^(h|hr|hrs|hours?)$/, 3600],
  [/^(d|days?)$/, 86_400],
  [/^(w|weeks?)$/, 604_800],
]

/** Seconds; a bare number is that. */
export function readSpan(text: string): number | string {
  const bare = text.trim().toLowerCase()
  const clock = /^(\d+):([0-5]\d)(?::([0-5]\d))?$/.exec(bare)
  if (clock) {
    const [first, second, third] = [Number(clock[1]), Number(clock[2]), clock[3]]
    return third === undefined ? 60 * first + second : 3600 * first + 60 * second + Number(third)
  }
  const plain = readNumber(bare)
  if (typeof plain === 'number') return plain >= 0 ? plain : `a time is written ${HINTS.span}`
  let seconds = 0
  let unit = 0
  const parts = [...bare.matchAll(/(\d+(?:[.,]\d+)?)\s*([a-z]*)/g)]
  const isAll =
    parts
      .map((part) => part[0])
      .join('')
      .replace(/\s/g, '') === bare.replace(/\s|and/g, '')
  for (const [, number = '', word = ''] of isAll ? parts : []) {
    // The 30 of 1h30 is of the next smaller unit.
    const by = word ? UNITS.find(([reads]) => reads.test(word))?.[1] : SMALLER[unit]
    if (by === undefined) return `a time is written ${HINTS.span}`
    unit = by
    seconds += Number(number.replace(',', '.')) * by
  }
  return parts.length && isAll ? Number(seconds.toPrecision(12)) : `a time is written ${HINTS.span}`
}

const SMALLER: Record<number, number> = { 3600: 60, 60: 1, 86_400: 3600 }

// --- depths ------------------------------------------------------------------------------------------------

/** First and last of a scale; null for all of it. */
export function readRange(text: string, scale: [number, number]): [number, number] | null | string {
  const bare = text
    .trim()
    .toLowerCase()
    .replace(/^at\s+/, '')
  const [first, last] = scale
  if (/^(all|any|everywhere|)$/.test(bare)) return null
  const from =
    /^(?:from|after)?\s*(\d+)\s*(?:\+|on|onwards?|and (?:deeper|below|more)|up)$|^from\s+(\d+)$/.exec(
      bare,
    )
  const to = /^(?:up\s*to|to|until|till|down\s*to|[<≤]=?)\s*(\d+)$/.exec(bare)
  const both = /^(?:from\s+)?(\d+)\s*(?:[-–—…]|\.\.+|to|until|till)\s*(\d+)$/.exec(bare)
  const one = /^(?:only\s+)?(\d+)$/.exec(bare)
  const range: [number, number] | null = from
    ? [Number(from[1] ?? from[2]), last]
    : to
      ? [first, Number(to[1])]
      : both
        ? [Number(both[1]), Number(both[2])]
        : one
          ? [Number(one[1]), Number(one[1])]
          : null
  if (!range) return `depths are written ${HINTS.range}`
  const [low, high] = range
  if (low > high) return `${low} is deeper than ${high}; swap them`
  if (low < first || high > last) return `depths go from ${first} to ${last}`
  return [low, high]
}

// --- cells -------------------------------------------------------------------------------------------------

/** Columns and rows; of a bare number as near to a square as it can be. */
export function readCells(text: string): [number, number] | string {
  const bare = text
    .trim()
    .toLowerCase()
    .replace(/\s*cells?$/, '')
  const both = /^(\d+)\s*(?:[x×*]|by)\s*(\d+)$/.exec(bare)
  if (both) return [Number(both[1]), Number(both[2])]
  const count = /^\d+$/.test(bare) ? Number(bare) : 0
  if (count < 1) return `cells are written ${HINTS.cells}`
  let rows = Math.floor(Math.sqrt(count))
  while (count % rows) rows -= 1
  return [count / rows, rows]
}

// --- quantities --------------------------------------------------------------------------------------------

/** As the server reads it: “6 to 12 step 2” is 6-12/2. What is none of these stays as it is, to be refused. */
export function quantityAsRead(text: string): string {
  const found =
    /^\s*(\d[\d\s,.k]*?)\s*(?:[-–—…]|\.\.+|\bto\b)\s*(\d[\d\s,.k]*?)\s*(?:(?:\/|,?\s*\b(?:step|steps of|by|in steps of)\b)\s*(\d+))?\s*$/i.exec(
      text,
    )
  if (!found) return text.replace(/^\s*([\d\s,.k]+?)\s*(?:each|×|x)\s*$/i, '$1')
  const [, low = '', high = '', step] = found
  return `${low}-${high}${step ? `/${step}` : ''}`
}

// --- prices ------------------------------------------------------------------------------------------------

interface Named {
  id: string
  name: string
  currency?: boolean
}

/** So many of an item: by its name, or a word of it; without a name of what is paid with now. */
export function readPrice(
  text: string,
  items: Named[],
  paid: Named | undefined,
): { item: string; amount: number } | string {
  const found = /^\s*([\d\s\u202f.,k]+?)\s*([^\d\s.,].*)?$/i.exec(text)
  const amount = found ? readNumber(found[1] ?? '') : ''
  if (!found || typeof amount === 'string') return `a price is written ${HINTS.price}`
  const name = (found[2] ?? '').trim().toLowerCase()
  const item = name === '' ? paid : itemOfWord(name, items)
  if (item) return { item: item.id, amount }
  return name
    ? `there is no item “${name}”`
    : 'no item is money yet: say so in the catalogue, or write 150 and the name of one'
}

/** The item of that name, or else the one money in whose name the word is, in the singular too. */
function itemOfWord(word: string, items: Named[]): Named | undefined {
  const singular = word.replace(/s$/, '')
  const called = (item: Named) => item.name.toLowerCase()
  const named = items.find((item) => called(item) === word || called(item) === singular)
  if (named) return named
  const money = items.filter((item) => item.currency)
  const has = money.filter((item) => called(item).split(/\s+/).includes(singular))
  if (has.length === 1) return has[0]
  return has.length === 0 && money.length === 1 && /^(coin|money|cash)$/.test(singular)
    ? money[0]
    : undefined
}

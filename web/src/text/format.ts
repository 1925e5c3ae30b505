// Numbers as people read them: three significant figures, thousands apart by thin spaces.
import { movedPoint } from './numbers'

const THIN = '\u202f'

/** 12345.6 as "12 346", 42.123 as "42.1", 0.00285 as "0.00285". */
export function figures(x: number | null | undefined, digits = 3): string {
  if (x === null || x === undefined || Number.isNaN(x)) return ''
  if (Math.abs(x) < 1e-15) return '0'
  const size = Math.abs(x)
  if (size < 1e-6) return tiny(x, digits)
  const places = Math.max(0, digits - 1 - Math.floor(Math.log10(size * (1 + 1e-12))))
  return spaced(x.toFixed(Math.min(places, 12)).replace('-', '−'))
}

/** The same where room is scarce: 46 313 as "46.3k", 1 234 567 as "1.23M". */
export function brief(x: number | null | undefined, digits = 3): string {
  const size = Math.abs(x ?? 0)
  if (size < 9_995) return figures(x, digits)
  const [of, letter] = size < 999_500 ? [1e3, 'k'] : size < 9.995e8 ? [1e6, 'M'] : [1e9, 'G']
  return figures((x ?? 0) / of, digits) + letter
}

/** 0.0341 as "3.41". The sign % stands beside it. */
export function percent(p: number | null | undefined, digits = 3): string {
  if (p === null || p === undefined) return ''
  return figures(100 * p, digits)
}

export function whole(x: number): string {
  return spaced(String(Math.round(x)))
}

/** A count or an amount: whole where it is whole. */
export function amount(x: number): string {
  return Number.isInteger(x) ? whole(x) : figures(x)
}

/** An entered number to look at where room is scarce: four figures, or a whole number. */
export function short(x: number): string {
  return isShortWhole(x) ? String(x) : String(Number(x.toPrecision(4)))
}

/** An entered number to look at: six figures, or a whole number. */
export function written(x: number): string {
  return isShortWhole(x) ? String(x) : String(Number(x.toPrecision(6)))
}

/**
 * An entered number to open, copy, fill and speak: the shortest text that is read as just that again. `times`
 * is how many of its units make one: 100 of a chance in per cent.
 */
export function entered(x: number, times: 1 | 100 = 1): string {
  if (times === 1) return String(x)
  const text = movedPoint(String(x), 2)
  return text.includes('e') ? String(Number(text)) : text
}

const isShortWhole = (x: number) => Number.isInteger(x) && Math.abs(x) < 1e9

function tiny(x: number, digits: number): string {
  const [front, power] = x.toExponential(digits - 1).split('e')
  return `${front}e${power}`
}

function spaced(text: string): string {
  const [front = '', back] = text.split('.')
  const apart = front.replace(/\B(?=(\d{3})+$)/g, THIN)
  return back ? `${apart}.${back}` : apart
}

export function signed(x: number, digits = 3): string {
  return (x < 0 ? '−' : '+') + figures(Math.abs(x), digits)
}

/** How many standard errors off, with its sign; nothing where it is not told. */
export function zText(z: number | null | undefined): string {
  return z === null || z === undefined ? '' : (z < 0 ? '−' : '+') + Math.abs(z).toFixed(2)
}

/** Read one depth of the game; a text says why it is none. */
export function typedDepth(text: string, [from, to]: [number, number]): number | string {
  const typed = Number(text)
  const fits = text.trim() !== '' && Number.isInteger(typed) && typed >= from && typed <= to
  return fits ? typed : `a whole number from ${from} to ${to}`
}

/** When something was, as people say it: "today, 14:05", "yesterday, 9:30", "3 November". */
export function when(at: string, now = new Date()): string {
  const then = new Date(at)
  const days = Math.round((midnight(now) - midnight(then)) / 86_400_000)
  const time = then.toLocaleTimeString(undefined, {
    hour: '2-digit',
    minute: '2-digit',
    hour12: false,
  })
  if (days === 0) return `today, ${time}`
  if (days === 1) return `yesterday, ${time}`
  const year = then.getFullYear() === now.getFullYear() ? undefined : 'numeric'
  return then.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year })
}

const midnight = (at: Date) => new Date(at.getFullYear(), at.getMonth(), at.getDate()).getTime()

// Reading numbers as people write them: 1.5, 2,5, 20 000, 1,500,000, 1.5k; and chances: 40 %, 1 in 50. What
// can be meant in two ways is asked about, not guessed.

/** What a comma means where a text alone does not tell; null: nobody knows. */
export type Commas = 'decimal' | 'thousands' | null

const SPACES = /[\s\u00a0\u2009\u202f]/g
const SCALES: Record<string, number> = { k: 1e3, M: 1e6, G: 1e9 }

/** The number, its point moved so many places, or the sentence that says why it is none. */
export function readNumber(text: string, commas: Commas = null, moved = 0): number | string {
  const bare = text.replace(SPACES, '').replace('−', '-')
  const [, digits = '', scale = ''] = /^(.*?)([kMG]?)$/.exec(bare) ?? []
  const plain = withPoint(digits, commas)
  if (plain === null) return twoWays(text, digits)
  if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(plain))
    return `“${text.trim()}” is not a number`
  const times = SCALES[scale]
  const value =
    times === undefined
      ? Number(movedPoint(plain, moved))
      : exact(Number(movedPoint(plain, moved)) * times)
  return Number.isFinite(value) ? value : `“${text.trim()}” is too large`
}

/** A percentage as a share, without what binary adds at the end of a decimal: 1.1 % is 0.011. */
export const hundredth = (value: number) => Number(movedPoint(String(value), -2))

/** A decimal with its point so many places further to the right, digit by digit. */
export function movedPoint(text: string, places: number): string {
  const [, sign = '', before = '', after = '', power = ''] =
    /^([+-]?)(\d*)\.?(\d*)(e[+-]?\d+)?$/i.exec(text) ?? []
  if (power) return `${sign}${before}.${after}e${Number(power.slice(1)) + places}`
  const digits = before.padStart(2, '0') + after.padEnd(2, '0')
  const point = before.padStart(2, '0').length + places
  const moved = `${digits.slice(0, point) || '0'}.${digits.slice(point)}`
  return (
    sign +
    moved
      .replace(/^0+(?=\d)/, '')
      .replace(/(\.\d*?)0*$/, '$1')
      .replace(/\.$/, '')
  )
}

/** The same of a number of thousands or millions. */
const exact = (value: number) => Number(value.toPrecision(15))

/** The same with a point for the decimals and nothing between thousands; null: it can be read in two ways. */
function withPoint(text: string, commas: Commas): string | null {
  const [comma, point] = [text.lastIndexOf(','), text.lastIndexOf('.')]
  if (comma < 0 && point < 0) return text
  if (comma >= 0 && point >= 0) {
    const last = comma > point ? ',' : '.'
    return parted(text, last === ',' ? '.' : ',').replace(last, '.')
  }
  const sign = comma >= 0 ? ',' : '.'
  if (text.split(sign).length > 2) return parted(text, sign)
  const isThree = /^[+-]?[1-9]\d{0,2}[.,]\d{3}$/.test(text)
  if (sign === '.') return isThree && commas === 'decimal' ? text.replace('.', '') : text
  if (!isThree || commas === 'decimal') return text.replace(',', '.')
  return commas === 'thousands' ? text.replace(',', '') : null
}

/** Without the signs between thousands, if they stand where thousands do; else as it is. */
function parted(text: string, sign: ',' | '.'): string {
  const groups = new RegExp(`^[+-]?\\d{1,3}(\\${sign}\\d{3})+(?!\\d)`)
  return groups.test(text) ? text.replaceAll(sign, '') : text
}

function twoWays(text: string, digits: string): string {
  const [decimal, thousands] = [digits.replace(',', '.'), digits.replace(',', ' ')]
  return `${text.trim()} can be ${decimal} or ${thousands}: write it one way`
}

/** What commas mean in cells that go together, as far as any of them tells. */
export function commasIn(cells: string[]): Commas {
  for (const cell of cells) {
    const text = cell.replace(SPACES, '')
    if (/^[+-]?(\d{1,3}(\.\d{3})*|\d+),(\d{1,2}|\d{4,})$|^[+-]?0?,\d+$/.test(text)) return 'decimal'
    if (/^[+-]?\d{1,3}(,\d{3}){2,}(\.\d+)?$|^[+-]?\d{1,3}(,\d{3})+\.\d+$/.test(text))
      return 'thousands'
    if (/^[+-]?0,\d{3}$/.test(text)) return 'decimal'
  }
  // “2,500” alone can be meant in two ways; among numbers that have no comma it is thousands.
  const bare = cells.map((cell) => cell.replace(SPACES, ''))
  const isAsked = bare.some((text) => /^[+-]?[1-9]\d{0,2},\d{3}$/.test(text))
  return isAsked && bare.some((text) => /^[+-]?\d+(\.\d+)?$/.test(text)) ? 'thousands' : null
}

/** A cell's text with its number written plainly, where it is nothing but a number. */
export function plainly(text: string, commas: Commas): string {
  if (!commas || !/^[\s\u00a0\u2009\u202f\d.,+-]*%?\s*$/.test(text) || !/[.,]/.test(text))
    return text
  const [, number = '', sign = ''] = /^(.*?)(\s*%?\s*)$/.exec(text) ?? []
  const value = readNumber(number, commas)
  return typeof value === 'number' ? String(value) + sign : text
}

/**
 * A chance: "40 %", "1 in 50", "3/50"; a bare number is in percent where the head says so, else one that
 * could be a share as well is asked about.
 */
export function readChance(text: string, unit: 'percent' | 'either' = 'either'): number | string {
  const ratio = /^\s*(.+?)\s*(?:\bin\b|\/)\s*(.+?)\s*$/i.exec(text)
  if (ratio) {
    const [top, bottom] = [readNumber(ratio[1] ?? ''), readNumber(ratio[2] ?? '')]
    if (typeof top === 'string') return top
    if (typeof bottom === 'string') return bottom
    return bottom > 0 ? within(top / bottom, text) : 'one in how many? A number above 0'
  }
  const isPercent = /%\s*$/.test(text)
  const value = readNumber(text.replace('%', ''))
  if (typeof value === 'string')
    return /\d/.test(text) ? value : 'a chance is written 2 % or 1 in 50'
  if (isPercent || unit === 'percent' || value > 1 || value === 0)
    return within(Number(readNumber(text.replace('%', ''), null, -2)), text)
  return `${text.trim()} can be ${value} % or ${exact(100 * value)} %: write it with %`
}

function within(chance: number, text: string): number | string {
  return chance >= 0 && chance <= 1 ? chance : `${text.trim()} is no chance: from 0 to 100 %`
}

/** How many for one: "250", "1 in 250", "0.4 %". */
export function readOneIn(text: string): number | string {
  const bare = readNumber(text)
  if (typeof bare === 'number') return bare
  const chance = readChance(text, 'percent')
  if (typeof chance === 'string') return chance
  return chance > 0 ? 1 / chance : 'one in how many: write 250, 1 in 250 or 0.4 %'
}

/** The number, or null where there is none. */
export function typedNumber(text: string): number | null {
  const value = readNumber(text)
  return typeof value === 'number' ? value : null
}

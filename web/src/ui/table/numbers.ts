// Rows of numbers on their way out of the page: to the clipboard, or into a file.

export type Told = string | number | null

export interface Numbers {
  heads: string[]
  rows: Told[][]
}

/** As a spreadsheet takes it from the clipboard: cells by tabs, rows by line ends. */
export function tabbed(rows: Told[][]): string {
  return rows
    .map((row) => row.map((cell) => plain(cell).replace(/[\t\r\n]+/g, ' ')).join('\t'))
    .join('\n')
}

/** As a file (RFC 4180), its heads in the first row. */
export function commaSeparated({ heads, rows }: Numbers): string {
  const line = (row: Told[]) => row.map((cell) => quoted(plain(cell))).join(',')
  return [heads, ...rows].map(line).join('\r\n') + '\r\n'
}

function plain(cell: Told): string {
  return cell === null ? '' : String(cell)
}

/** Quoted where it must be. What a spreadsheet would take for a formula is set off by a space: it is a name. */
function quoted(text: string): string {
  const safe = /^[=+@\t]|^-(?![\d.])/.test(text) ? ` ${text}` : text
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

/** The order of two cells: numbers by size, names by alphabet, what is not there last. */
export function inOrder(a: Told, b: Told): number {
  if (a === null || b === null) return Number(a === null) - Number(b === null)
  if (typeof a === 'number' && typeof b === 'number') return a - b
  return String(a).localeCompare(String(b), undefined, { numeric: true })
}

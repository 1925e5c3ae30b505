// Columns whose head says nothing to us: each can be said to be one that is read.
import type { SheetsRead } from '@/api/types'
import { Choice } from '@/ui/Choice'

export function Columns({
  read,
  columns,
  onColumns,
}: {
  read: SheetsRead
  /** By the head that is read the column that it is. */
  columns: Record<string, string>
  onColumns: (columns: Record<string, string>) => void
}) {
  const said = new Map(Object.entries(columns).map(([head, column]) => [column, head]))
  const known = [...new Set(read.sheets.flatMap((sheet) => (sheet.kind ? sheet.known : ANY)))]
  const guessed = new Map(read.sheets.flatMap((sheet) => Object.entries(sheet.guessed)))
  const strange = read.sheets.flatMap((sheet) =>
    sheet.heads.filter((head) => head && !isKnown(head, sheet.kind ? sheet.known : [])),
  )
  const shown = [...new Set([...said.keys(), ...strange])].filter((one) => !isAside(one))
  const say = (column: string, head: string) => {
    const others = Object.entries(columns).filter(([of, is]) => is !== column && of !== head)
    const now = head || (guessed.has(column) ? aside(column) : '')
    onColumns(Object.fromEntries(now ? [...others, [now, column]] : others))
  }
  const choices = (of: string[]) =>
    of.map((column) => (
      <span key={column}>
        <b className="text-ink">{column}</b> is{' '}
        <Choice
          label={`what the column ${column} is`}
          value={saidOf(said.get(column)) || guessed.get(column) || ''}
          width="max-w-[130px]"
          options={{ '': 'nothing here', ...Object.fromEntries(known.map((one) => [one, one])) }}
          onChange={(head) => say(column, head)}
        />
      </span>
    ))
  return (
    <>
      {guessed.size > 0 && (
        <p className={LINE}>read by what they hold: {choices([...guessed.keys()])}</p>
      )}
      {shown.length > 0 && <p className={LINE}>columns not read: {choices(shown)}</p>}
    </>
  )
}

const LINE = 'flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note text-muted'

// A column that is said to be nothing is called so, that nobody guesses what it is.
const aside = (column: string) => `(${column})`
const isAside = (head: string) => head.startsWith('(')
const saidOf = (head: string | undefined) => (head === undefined || isAside(head) ? '' : head)

// Of a sheet that is not known for anything yet: what would make it one.
const ANY = ['name', 'tier', 'tags', 'value', 'table', 'line', 'gives', 'weight', 'source', 'drop']

const isKnown = (head: string, known: string[]) => known.includes(head.trim().toLowerCase())

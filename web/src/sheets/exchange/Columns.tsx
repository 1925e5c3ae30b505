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
  const strange = read.sheets.flatMap((sheet) =>
    sheet.heads.filter((head) => head && !isKnown(head, sheet.kind ? sheet.known : [])),
  )
  const shown = [...new Set([...said.keys(), ...strange])]
  if (!shown.length) return null
  return (
    <p className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note text-muted">
      columns not read:
      {shown.map((column) => (
        <span key={column}>
          <b className="text-ink">{column}</b> is{' '}
          <Choice
            label={`what the column ${column} is`}
            value={said.get(column) ?? ''}
            width="max-w-[130px]"
            options={{ '': 'nothing here', ...Object.fromEntries(known.map((one) => [one, one])) }}
            onChange={(head) => {
              const others = Object.entries(columns).filter(
                ([of, is]) => is !== column && of !== head,
              )
              onColumns(Object.fromEntries(head ? [...others, [head, column]] : others))
            }}
          />
        </span>
      ))}
    </p>
  )
}

// Of a sheet that is not known for anything yet: what would make it one.
const ANY = ['name', 'tier', 'tags', 'value', 'table', 'line', 'gives', 'weight', 'source', 'drop']

const isKnown = (head: string, known: string[]) => known.includes(head.trim().toLowerCase())

// What sheets would make of the game, cell by cell; all of it is taken, or a part, in one step.
import { useState } from 'react'
import { toast } from 'sonner'
import type { SheetsRead } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { take } from '@/game/edit'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { Columns } from './Columns'
import { rowsOf, type PreviewRow } from './rows'

const SHOWN = { all: 'all', new: 'new', changed: 'changed', refused: 'refused' } as const
type Shown = keyof typeof SHOWN

export function Preview({
  name,
  read,
  seen,
  columns: mapped,
  problem: unread,
  onColumns,
  onLeave,
}: {
  name: string
  read: SheetsRead
  /** The game that it was held against. */
  seen: Parts
  columns: Record<string, string>
  problem: string
  onColumns: (columns: Record<string, string>) => void
  onLeave: () => void
}) {
  const parts = useGame((state) => state.parts)
  const [shown, setShown] = useState<Shown>('all')
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [problem, setProblem] = useState('')
  const rows = rowsOf(parts, read)
  const taken = read.entries.filter((entry) => !left.has(`${entry.kind}/${entry.id}`))
  const toggle = (key: string) => {
    const next = new Set(left)
    if (!next.delete(key)) next.add(key)
    setLeft(next)
  }
  const takeIn = async () => {
    const failure = await take(`took in ${name}`, taken, seen)
    if (failure) return setProblem(failure.message)
    toast(`Took in ${name}: ${taken.length} things new or changed`)
    onLeave()
  }
  const columns: DataColumn<PreviewRow>[] = [
    {
      id: 'take',
      head: 'take',
      align: 'left',
      value: (row) => (row.entity && !left.has(row.entity) ? 'yes' : ''),
      cell: (row) =>
        row.entity && (
          <input
            type="checkbox"
            aria-label={`take ${row.of}`}
            checked={!left.has(row.entity)}
            onChange={() => row.entity && toggle(row.entity)}
          />
        ),
    },
    { id: 'what', head: 'what', align: 'left', value: (row) => SHOWN[row.what] },
    {
      id: 'of',
      head: 'of',
      align: 'left',
      value: (row) => row.of,
      cell: (row) => <span className="name">{row.of}</span>,
    },
    { id: 'where', head: 'where', align: 'left', value: (row) => row.where },
    { id: 'before', head: 'before', align: 'left', className: 'num', value: (row) => row.before },
    { id: 'after', head: 'after', align: 'left', className: 'num', value: (row) => row.after },
  ]
  return (
    <section aria-label="what it would do">
      <h2 className="head pb-1">In: {name}</h2>
      <p className="text-lead">
        <b className="num">{read.new.length}</b> new, <b className="num">{read.changed.length}</b>{' '}
        {read.changed.length === 1 ? 'cell' : 'cells'} changed,{' '}
        <b className="num">{read.unchanged}</b>{' '}
        {read.unchanged === 1 ? 'row as it was' : 'rows as they were'},{' '}
        <b className="num">{read.refused.length}</b> refused.
      </p>
      <p className="text-note text-muted">
        {read.sheets.map((sheet) => `${sheet.name}: ${sheet.kind ?? 'not read'}`).join('; ')}
      </p>
      <Columns read={read} columns={mapped} onColumns={onColumns} />
      {unread && (
        <p role="alert" className="text-bad">
          {unread}
        </p>
      )}
      <p className="flex items-center gap-3 py-2">
        <button
          type="button"
          className="gold-button"
          disabled={!taken.length}
          onClick={() => void takeIn()}
        >
          {taken.length === read.entries.length ? 'Take all' : `Take ${taken.length}`}
        </button>
        <button type="button" className="plain-button" onClick={onLeave}>
          Leave it
        </button>
        {left.size > 0 && (
          <button type="button" className="label hover:text-ink" onClick={() => setLeft(new Set())}>
            all again
          </button>
        )}
        <span className="ml-4 flex gap-2 text-note" role="group" aria-label="what is shown">
          {(Object.keys(SHOWN) as Shown[]).map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={shown === one}
              className={shown === one ? 'choice text-ink' : 'label hover:text-ink'}
              onClick={() => setShown(one)}
            >
              {SHOWN[one]}
            </button>
          ))}
        </span>
      </p>
      {problem && (
        <p role="alert" className="pb-2 text-bad">
          {problem}
        </p>
      )}
      {rows.length === 0 ? (
        <p className="text-muted">It says what the game says already.</p>
      ) : (
        <DataTable
          label={`what ${name} would do`}
          columns={columns}
          rows={rows.filter((row) => shown === 'all' || row.what === shown)}
          keyOf={(row) => row.key}
        />
      )}
    </section>
  )
}

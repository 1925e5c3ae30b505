// A table looked at alone: one event is one roll of the whole table.
import { useOdds } from '@/game/queries'
import { change } from '@/game/edit'
import { setDepth, show, useGamePart } from '@/game/store'
import { rollersOf } from '@/game/mentions'
import { ROLL } from '@/game/words'
import { AlongSwitch } from '@/sheets/AlongSwitch'
import { LongRunSwitch, Pays } from '@/sheets/LongRunSwitch'
import { Notes } from '@/ui/Notes'
import { Title } from '@/sheets/Title'
import { TableBlock } from './TableBlock'

export function TableSheet({ id, fell }: { id: string; fell: Map<string, number> }) {
  const { parts, focus } = useGamePart('parts', 'focus')
  const { data } = useOdds(focus)
  const table = parts.table.get(id)
  if (!table) return <p className="p-6 text-muted">This table is gone.</p>
  const rollers = rollersOf(parts, id)
  return (
    <div className="px-5 pb-10 pt-3">
      <Title
        of="table"
        id={id}
        name={table.name}
        onRename={(name) => change('table', id, 'renamed', { name })}
      />
      <div className="flex flex-wrap justify-between gap-x-4 border-b border-hair pb-2 text-note text-muted">
        <span>
          {rollers.length ? 'rolled by ' : 'nobody rolls it yet'}
          {rollers.map(({ name, sheet, depth }, at) => (
            <button
              key={`${at} ${name}`}
              type="button"
              className="mr-2 text-ink underline decoration-hair underline-offset-2"
              onClick={() => {
                if (depth !== undefined) setDepth(depth)
                show(sheet)
              }}
            >
              {name}
            </button>
          ))}
        </span>
        <AlongSwitch />
        <LongRunSwitch sheet={data?.sheet} />
        {data && <Pays sheet={data.sheet} one="all its rolls pay" />}
      </div>
      <TableBlock table={table} sheet={data?.sheet} words={ROLL} fell={fell} />
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the table"
          text={table.notes}
          onCommit={(notes) => change('table', id, 'notes', { notes })}
        />
      </div>
    </div>
  )
}

// Flags: what a player has done or owns, and which lines and drops open or close by it.
import type { GameBody } from '@/api/types'
import { freshFlag } from '@/game/fresh'
import { freshId, type Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { changeList } from '@/game/edit'
import { lineName } from '@/game/words'
import { LeavingQuestion } from '@/sheets/LeavingQuestion'
import { useRemoval } from '@/sheets/useRemoval'
import { FlagButtons } from '@/ui/FlagButtons'
import type { Column } from '@/ui/grid/columns'
import { Grid } from '@/ui/grid/Grid'
import { nameColumn } from '@/ui/grid/nameColumn'

type Flag = GameBody['flags'][number]

export function FlagsSheet() {
  const parts = useGame((state) => state.parts)
  const set = useGame((state) => state.flags)
  const { leaving, remove, answered } = useRemoval()
  const flags = [...parts.flag.values()]
  const player = parts.settings.words?.player ?? 'player'
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">Flags</h1>
      <p className="max-w-[640px] pb-3 text-note text-muted">
        A quest done, a tool owned. Lines and drops may need a flag, or be open only without it: say
        so in their limits.
      </p>
      <Grid<Flag>
        label="flags"
        noun="flag"
        rows={flags}
        columns={columns(parts)}
        idOf={(flag) => flag.id}
        nameOf={(flag) => flag.name}
        onRows={(label, changed) => changeList('flag', label, changed)}
        newRow={(rows) => freshFlag(freshId('flag', new Set(rows.map((row) => row.id))))}
        onDelete={(gone) => void remove('flag', gone)}
        addText="+ add a flag"
      />
      {flags.length > 0 && (
        <p className="flex flex-wrap items-baseline gap-2 pt-5 text-note">
          All numbers on screen are of a {player} of whom these hold:{' '}
          <FlagButtons
            label="flags that are set"
            set={set}
            onChange={(flags) => useGame.setState({ flags })}
          />
        </p>
      )}
      <LeavingQuestion leaving={leaving} onDone={answered} />
    </div>
  )
}

function columns(parts: Parts): Column<Flag>[] {
  const told = (key: 'needs' | 'unless') => (flag: Flag) => gated(parts, flag.id, key).join('; ')
  return [
    nameColumn('a flag', 'minmax(160px,1fr)'),
    {
      key: 'needs',
      head: 'opens',
      label: 'opens',
      width: '2fr',
      text: told('needs'),
      title: told('needs'),
    },
    {
      key: 'unless',
      head: 'closes',
      label: 'closes',
      width: '2fr',
      text: told('unless'),
      title: told('unless'),
    },
  ]
}

/** The lines and drops that need a flag, or are open only without it. */
function gated(parts: Parts, flag: string, key: 'needs' | 'unless'): string[] {
  const lines = [...parts.table.values()].flatMap((table) =>
    table.lines
      .filter((line) => line[key].includes(flag))
      .map((line) => `${lineName(parts, line)} in ${table.name}`),
  )
  const drops = [...parts.source.values()].flatMap((source) =>
    source.drops
      .filter((drop) => drop[key].includes(flag))
      .map((drop) => `${parts.table.get(drop.table)?.name ?? drop.table} of ${source.name}`),
  )
  return [...lines, ...drops]
}

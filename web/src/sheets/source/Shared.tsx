// A table that others roll too: a change of it changes them, unless this drop gets one of its own.
import type { Drop, Source } from '@/api/types'
import { freshId, type Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { commit } from '@/game/sync'
import { tableEntry } from '../table/lines'
import { sourceEntry } from './entries'

/** The names of whatever else rolls a table: sources, other tables, bands. */
export function othersThatRoll(parts: Parts, table: string, source: string): string[] {
  const bands = (parts.settings.depth.bands ?? []).filter((band) => band.spawns === table)
  return [
    ...[...parts.source.values()]
      .filter((one) => one.id !== source && one.drops.some((drop) => drop.table === table))
      .map((one) => one.name),
    ...[...parts.table.values()]
      .filter((one) => one.lines.some((line) => line.yields.some((given) => given.table === table)))
      .map((one) => one.name),
    ...bands.map((band) => `visits to ${band.name}`),
  ]
}

export function Shared({ source, drop }: { source: Source; drop: Drop }) {
  const parts = useGame((state) => state.parts)
  const others = othersThatRoll(parts, drop.table, source.id)
  const table = parts.table.get(drop.table)
  if (!others.length || !table) return null
  const own = () => {
    const name = `${table.name}, ${source.name}`
    const id = freshId(name, parts.table)
    const drops = source.drops.map((one) => (one.id === drop.id ? { ...one, table: id } : one))
    void commit(`${source.name} has ${table.name} of its own`, [
      tableEntry({ ...table, id, name }),
      sourceEntry({ ...source, drops }),
    ])
  }
  return (
    <p className="py-0.5 text-[12.5px] text-waiting" data-testid="shared">
      Also rolled by {listed(others)}: a change here changes it there.{' '}
      <button type="button" className="choice text-ink" onClick={own}>
        make it its own
      </button>
    </p>
  )
}

const MOST_NAMED = 3

function listed(names: string[]): string {
  const more = names.length - MOST_NAMED
  return names.slice(0, MOST_NAMED).join(', ') + (more > 0 ? ` and ${more} more` : '')
}

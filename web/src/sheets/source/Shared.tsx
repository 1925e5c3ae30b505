// A table that others roll too: a change of it changes them, unless this drop gets one of its own.
import type { Drop, Source } from '@/api/types'
import { rollersOf } from '@/game/mentions'
import { freshId } from '@/game/parts'
import { useGame } from '@/game/store'
import { edit } from '@/game/edit'

export function Shared({ source, drop }: { source: Source; drop: Drop }) {
  const parts = useGame((state) => state.parts)
  const others = rollersOf(parts, drop.table)
    .filter(({ sheet }) => sheet.kind !== 'source' || sheet.id !== source.id)
    .map(({ name }) => name)
  const table = parts.table.get(drop.table)
  if (!others.length || !table) return null
  const own = () => {
    const name = `${table.name}, ${source.name}`
    const id = freshId(name, parts.table)
    void edit(`${source.name} has ${table.name} of its own`, (game) => {
      game.table.set(id, { ...table, id, name })
      const mine = game.source.get(source.id)?.drops.find((one) => one.id === drop.id)
      if (mine) mine.table = id
    })
  }
  return (
    <p className="py-0.5 text-note text-waiting" data-testid="shared">
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

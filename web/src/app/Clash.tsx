// Someone else changed the same thing meanwhile: both versions, and a choice.
import { differences, namesOf } from '@/game/difference'
import type { Kind, Parts } from '@/game/parts'
import { settleClash } from '@/game/sync'
import type { Json } from '@/game/sync/merge'
import { useGamePart } from '@/game/store'
import { Differences, type Differing } from '@/ui/Differences'
import { Question } from '@/ui/Menu'

export function Clash() {
  const { conflict, parts } = useGamePart('conflict', 'parts')
  if (!conflict) return null
  const names = conflict.things.map((one) => nameOf(parts, one))
  return (
    <Question
      open
      title={`${names.join(', ')}: changed elsewhere too`}
      choices={[
        { label: 'Take theirs', run: () => settleClash('theirs') },
        { label: 'Keep mine', main: true, run: () => settleClash('mine') },
      ]}
    >
      <p>
        Another page saved a change to the same while you made yours ({conflict.label}). Nothing is
        lost: choose what stays here. All else that either of you changed stays anyway.
      </p>
      <Differences
        label="what clashes"
        rows={conflict.things.flatMap((one) => rowsOf(parts, one))}
        sides={['yours', 'theirs']}
      />
    </Question>
  )
}

type Thing = { kind: string; id: string; mine: Json; theirs: Json }

function nameOf(parts: Parts, one: Thing): string {
  if (one.kind === 'settings') return 'The game'
  const body = (one.mine ?? one.theirs) as { name?: string } | null
  return parts[one.kind as Kind].get(one.id)?.name ?? body?.name ?? one.id
}

/** Of all that differs, what both changed. */
function rowsOf(parts: Parts, one: Thing & { places: string[] }): Differing[] {
  const all = differences(namesOf(parts), one.mine, one.theirs)
  const clashes = (path: string) =>
    one.places.some(
      (place) =>
        path === place || !place || path.startsWith(`${place}.`) || path.startsWith(`${place}[`),
    )
  const of = nameOf(parts, one)
  return all.filter(({ path }) => clashes(path)).map((found) => ({ ...found, of }))
}

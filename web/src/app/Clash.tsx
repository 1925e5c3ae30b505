// Someone else changed the same thing meanwhile: both versions, and a choice.
import type { Kind, Parts } from '@/game/parts'
import { settleClash } from '@/game/sync'
import type { Json } from '@/game/sync/merge'
import { useGamePart } from '@/game/store'
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
      <table className="w-full text-[12px]">
        <thead>
          <tr className="text-left text-muted">
            <th className="font-normal">where</th>
            <th className="font-normal">yours</th>
            <th className="font-normal">theirs</th>
          </tr>
        </thead>
        <tbody className="num">
          {conflict.things.flatMap((one, at) =>
            one.places.map((place) => (
              <tr key={`${one.kind}/${one.id}/${place}`} className="border-t border-hair align-top">
                <td className="pr-2">{[names[at], place].filter(Boolean).join(' ')}</td>
                <td className="pr-2">{said(standingAt(one.mine, place))}</td>
                <td>{said(standingAt(one.theirs, place))}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </Question>
  )
}

function nameOf(parts: Parts, one: { kind: string; id: string; mine: Json; theirs: Json }): string {
  if (one.kind === 'settings') return 'The game'
  const body = (one.mine ?? one.theirs) as { name?: string } | null
  return parts[one.kind as Kind].get(one.id)?.name ?? body?.name ?? one.id
}

/** What stands at a place like `lines[a].weight`. */
function standingAt(body: Json, place: string): unknown {
  const steps = place.match(/[^.[\]]+|\[[^\]]+\]/g) ?? []
  return steps.reduce<unknown>((now, step) => {
    if (now === null || now === undefined) return now
    const id = /^\[(.*)\]$/.exec(step)?.[1]
    return id !== undefined
      ? (now as { id: string }[]).find((one) => one.id === id)
      : (now as Record<string, unknown>)[step]
  }, body)
}

function said(value: unknown): string {
  return value === undefined || value === null ? 'not there' : JSON.stringify(value)
}

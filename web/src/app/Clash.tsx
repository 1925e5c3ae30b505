// Someone else changed the same thing meanwhile: both versions, and a choice.
import type { Drop, Line } from '@/api/types'
import type { Kind, Parts } from '@/game/parts'
import { settleClash } from '@/game/sync'
import type { Json } from '@/game/sync/merge'
import { useGamePart } from '@/game/store'
import { lineName } from '@/game/words'
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
                <td className="pr-2 font-sans">{placeWords(parts, names[at] ?? '', one, place)}</td>
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

type Thing = { kind: string; id: string; mine: Json; theirs: Json }

function nameOf(parts: Parts, one: Thing): string {
  if (one.kind === 'settings') return 'The game'
  const body = (one.mine ?? one.theirs) as { name?: string } | null
  return parts[one.kind as Kind].get(one.id)?.name ?? body?.name ?? one.id
}

/** `lines[g].weight` of a table as "Eel catch, Beacon lens: weight". */
function placeWords(parts: Parts, name: string, one: Thing, place: string): string {
  const [, list, id, rest] = /^(lines|drops)\[([^\]]+)\]\.?(.*)$/.exec(place) ?? []
  if (!list) return [name, place || 'all of it'].join(': ')
  const within = (standingAt(one.mine, `${list}[${id}]`) ??
    standingAt(one.theirs, `${list}[${id}]`)) as Line & Drop
  const called =
    list === 'lines' ? lineName(parts, within) : (parts.table.get(within.table)?.name ?? id)
  return `${name}, ${called}: ${rest || 'removed or changed'}`
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

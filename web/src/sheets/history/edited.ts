// What differs between two states of a game.
import { differences, namesOf } from '@/game/difference'
import { KINDS, type Parts } from '@/game/parts'
import type { Json } from '@/game/sync/merge'
import type { Differing } from '@/ui/Differences'

export interface Edited extends Differing {
  entity: string
}

/** Every thing that differs, kind by kind. */
export function editedBetween(then: Parts, now: Parts): Edited[] {
  const names = namesOf(now)
  const found: Edited[] = differences(
    names,
    then.settings as unknown as Json,
    now.settings as unknown as Json,
  ).map((one) => ({ of: 'settings', entity: 'settings/game', ...one }))
  for (const kind of KINDS) {
    const [before, after] = [then[kind], now[kind]] as Map<string, { name?: string }>[]
    for (const id of new Set([...(before?.keys() ?? []), ...(after?.keys() ?? [])])) {
      const [old, is] = [before?.get(id), after?.get(id)]
      const of = is?.name ?? old?.name ?? id
      if (!old || !is)
        found.push({
          of,
          path: `${kind}/${id}`,
          entity: `${kind}/${id}`,
          where: kind,
          before: old ? 'there' : '',
          after: is ? 'there' : '',
        })
      else
        found.push(
          ...differences(names, old as unknown as Json, is as unknown as Json).map((one) => ({
            ...one,
            of,
            path: `${kind}/${id}/${one.path}`,
            entity: `${kind}/${id}`,
          })),
        )
    }
  }
  return found
}

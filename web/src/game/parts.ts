// The client's copy of a game: bodies by kind and id, in order. Edits make new maps.
import type { EntryIn, GameBody, Item, Settings, Source, Table, Target, Tier } from '@/api/types'

export interface Parts {
  settings: Settings
  curve: Map<string, GameBody['curves'][number]>
  tier: Map<string, Tier>
  flag: Map<string, GameBody['flags'][number]>
  item: Map<string, Item>
  table: Map<string, Table>
  source: Map<string, Source>
  target: Map<string, Target>
}

export type Kind = Exclude<keyof Parts, 'settings'>
export const KINDS: Kind[] = ['curve', 'tier', 'flag', 'item', 'table', 'source', 'target']

export function partsOf(game: GameBody): Parts {
  const byId = <T extends { id: string }>(list: T[]) => new Map(list.map((part) => [part.id, part]))
  return {
    settings: game.settings,
    curve: byId(game.curves),
    tier: byId(game.tiers),
    flag: byId(game.flags),
    item: byId(game.items),
    table: byId(game.tables),
    source: byId(game.sources),
    target: byId(game.targets),
  }
}

/** The parts with entries applied, as the server will apply them. */
export function withEntries(parts: Parts, entries: EntryIn[]): Parts {
  const result = { ...parts }
  for (const entry of entries) {
    if (entry.kind === 'settings') {
      result.settings = entry.body as unknown as Settings
      continue
    }
    const kind = entry.kind as Kind
    // Each kind's map holds that kind's bodies; entries are typed by kind only at run time.
    const map = new Map(result[kind] as Map<string, unknown>)
    if (entry.body === null) map.delete(entry.id)
    else map.set(entry.id, { ...entry.body, id: entry.id })
    const moved = entry.before ? movedBefore(map, entry.id, entry.before) : map
    Object.assign(result, { [kind]: moved })
  }
  return result
}

function movedBefore(map: Map<string, unknown>, id: string, before: string): Map<string, unknown> {
  const rest = [...map].filter(([other]) => other !== id)
  const at = rest.findIndex(([other]) => other === before)
  rest.splice(at < 0 ? rest.length : at, 0, [id, map.get(id)])
  return new Map(rest)
}

/** An id made of a name that the map does not hold yet. */
export function freshId(name: string, taken: { has(id: string): boolean }): string {
  const plain = name.normalize('NFKD').replace(/[’']|\p{M}/gu, '')
  const words = plain.toLowerCase().match(/[a-z0-9]+/g) ?? ['thing']
  const base = words.join('-').slice(0, 60).replace(/-$/, '')
  let id = base
  for (let count = 2; taken.has(id); count += 1) id = `${base}-${count}`
  return id
}

/** The next short id in a table or source: a, b ... z, l27, l28 ... */
export function freshLetter(taken: { id: string }[]): string {
  const held = new Set(taken.map((part) => part.id))
  for (const letter of 'abcdefghijklmnopqrstuvwxyz') if (!held.has(letter)) return letter
  let count = 27
  while (held.has(`l${count}`)) count += 1
  return `l${count}`
}

// The client's copy of a game: bodies by kind and id, in order. Edits make new maps.
import type { EntryIn, GameBody, Settings } from '@/api/types'

/** Each kind's list in the game. A new kind is a line here; everything else follows from the types. */
const LISTS = {
  curve: 'curves',
  tier: 'tiers',
  flag: 'flags',
  item: 'items',
  table: 'tables',
  source: 'sources',
  property: 'properties',
  set: 'sets',
  place: 'places',
  stall: 'stalls',
  route: 'routes',
  target: 'targets',
} as const satisfies Record<string, keyof GameBody>

export type Kind = keyof typeof LISTS
export type BodyOf<K extends Kind> = GameBody[(typeof LISTS)[K]][number]
export type Parts = { settings: Settings } & { [K in Kind]: Map<string, BodyOf<K>> }

export const KINDS = Object.keys(LISTS) as Kind[]

export function partsOf(game: GameBody): Parts {
  const maps = KINDS.map((kind) => [kind, byId(game[LISTS[kind]] ?? [])])
  return { settings: game.settings, ...Object.fromEntries(maps) } as Parts
}

function byId(list: { id: string }[]): Map<string, unknown> {
  return new Map(list.map((part) => [part.id, part]))
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

const LONGEST = 120 // letters of a name

/** What a copy is called until it is named. */
export const copyName = (name: string) => `${name.slice(0, LONGEST - ', copy'.length)}, copy`

/** A name that nothing there has yet: with 2, 3 ... behind it where it is taken. */
export function freshName(name: string, taken: Map<string, { name: string }>): string {
  const names = new Set([...taken.values()].map((one) => one.name))
  let fresh = name
  for (let count = 2; names.has(fresh); count += 1) fresh = `${name} ${count}`
  return fresh
}

/** The next short id in a table or source: a, b ... z, l27, l28 ... */
export function freshLetter(taken: { id: string }[]): string {
  const held = new Set(taken.map((part) => part.id))
  for (const letter of 'abcdefghijklmnopqrstuvwxyz') if (!held.has(letter)) return letter
  let count = 27
  while (held.has(`l${count}`)) count += 1
  return `l${count}`
}

/** What a thing is called; the game's settings are the game. */
export function nameOfThing(parts: Parts, kind: string, id: string): string {
  const list = KINDS.find((one) => one === kind)
  return (list && parts[list].get(id)?.name) ?? (kind === 'settings' ? parts.settings.name : id)
}

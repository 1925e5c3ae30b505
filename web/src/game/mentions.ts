// Where things name each other, in words: the table or source, and which of its lines or drops.
import type { UseOut } from '@/api/types'
import type { Kind, Parts } from './parts'
import type { Sheet } from './store'
import { nameOfLine } from './words'

/** What rolls a table: a source, another table, or the visits to a band, which are looked at from a depth. */
export interface Roller {
  name: string
  sheet: Sheet
  depth?: number
}

export function rollersOf(parts: Parts, table: string): Roller[] {
  const named = (kind: 'source' | 'table') => (one: { id: string; name: string }) => ({
    name: one.name,
    sheet: { kind, id: one.id },
  })
  return [
    ...[...parts.source.values()]
      .filter((source) => source.drops.some((drop) => drop.table === table))
      .map(named('source')),
    ...[...parts.table.values()]
      .filter((one) => one.lines.some((line) => line.yields.some((given) => given.table === table)))
      .map(named('table')),
    ...(parts.settings.depth.bands ?? [])
      .filter((band) => band.spawns === table)
      .map(({ name, from }): Roller => {
        return { name: `visits to ${name}`, sheet: { kind: 'meets', id: 'here' }, depth: from }
      }),
  ]
}

/** By who names it: `table Eel catch: Beacon lens, Lamp oil`. */
export function mentionWords(parts: Parts, uses: UseOut[]): string[] {
  const places = new Map<string, Set<string>>()
  for (const use of uses) {
    const holder = holderWords(parts, use)
    const within = places.get(holder) ?? new Set()
    places.set(holder, within.add(placeWithin(parts, use)))
  }
  return [...places].map(([holder, within]) => {
    const told = [...within].filter(Boolean)
    return told.length ? `${holder}: ${told.join(', ')}` : holder
  })
}

function holderWords(parts: Parts, use: UseOut): string {
  if (use.kind === 'settings') return 'bands'
  return `${use.kind} ${parts[use.kind as Kind].get(use.id)?.name ?? use.id}`
}

/** The line, drop or band that a path leads through; else what it is about. */
function placeWithin(parts: Parts, { kind, id, path }: UseOut): string {
  const at = Number(/\[(\d+)\]/.exec(path)?.[1])
  if (kind === 'settings') return parts.settings.depth.bands[at]?.name ?? ''
  if (path.startsWith('lines[')) {
    const table = parts.table.get(id)
    return nameOfLine(parts, table, table?.lines[at]?.id ?? '')
  }
  if (path.startsWith('drops[')) {
    const table = parts.source.get(id)?.drops[at]?.table ?? ''
    return parts.table.get(table)?.name ?? table
  }
  if (path.startsWith('stats')) return path.split('.')[1] ?? ''
  return ABOUT[path.split('.')[0] ?? ''] ?? ''
}

const ABOUT: Record<string, string> = {
  nothing_curve: 'its blank weight',
  rolls: 'how often it rolls',
  price: 'its price',
}

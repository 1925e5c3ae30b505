// Where things name each other, in words: the table or source, and which of its lines or drops.
import type { UseOut } from '@/api/types'
import type { Kind, Parts } from './parts'
import { lineName } from './words'

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
    const line = parts.table.get(id)?.lines[at]
    return line ? lineName(parts, line) : ''
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

// Of whom it is told what is kept: players on a route, or at a source for so many events. Kept while one goes from
// sheet to sheet.
import { create } from 'zustand'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'

interface Chosen {
  /** `route/ID` or `source/ID`; null until one is chosen. */
  of: string | null
  events: number
}

export const useChosen = create<Chosen>()(() => ({ of: null, events: 100 }))

export interface Subject {
  of: string
  route: string | null
  source: string | null
  events: number
}

/** What was chosen, if it is still there; else the last route, or the first source. */
export function useSubject(): Subject | null {
  const parts = useGame((state) => state.parts)
  const { of, events } = useChosen()
  const now = of !== null && isThere(parts, of) ? of : usual(parts)
  if (now === null) return null
  const [kind, id = ''] = now.split('/')
  return {
    of: now,
    route: kind === 'route' ? id : null,
    source: kind === 'source' ? id : null,
    events,
  }
}

export const asked = (subject: Subject | null) =>
  subject &&
  (subject.route !== null
    ? { route: subject.route }
    : { source: subject.source ?? '', events: subject.events })

function isThere(parts: Parts, of: string): boolean {
  const [kind, id = ''] = of.split('/')
  if (kind === 'route') return (parts.route.get(id)?.legs.length ?? 0) > 0
  return parts.source.has(id)
}

function usual(parts: Parts): string | null {
  const route = [...parts.route.values()].findLast((one) => one.legs.length > 0)
  if (route) return `route/${route.id}`
  const source = parts.source.keys().next().value
  return source === undefined ? null : `source/${source}`
}

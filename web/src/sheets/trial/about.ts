// What a trial is of, in words; and trials run again.
import type { QueryClient } from '@tanstack/react-query'
import { create } from 'zustand'
import { api } from '@/api/client'
import type { TrialIn, TrialOut, TrialSpec } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show, useGame, type Sheet } from '@/game/store'
import { eventWords, type EventWords } from '@/game/words'

/** The player of a trial who is replayed beside its report. */
interface Replaying {
  trial: string
  player: number | null
}

const useReplaying = create<Replaying>()(() => ({ trial: '', player: null }))

export function usePlayer(trial: string): number | null {
  return useReplaying((state) => (state.trial === trial ? state.player : null))
}

export function replay(trial: string, player: number | null): void {
  useReplaying.setState({ trial, player })
}

const ON_ROUTE: EventWords = { one: 'event', a: 'an event', many: 'events' }

export interface About {
  name: string
  sheet: NonNullable<Sheet> | null
  words: EventWords
}

/** A thing that is gone is called by its id. */
export function aboutTrial(parts: Parts, spec: TrialSpec): About {
  if (spec.route) {
    const name = parts.route.get(spec.route)?.name
    const sheet = name === undefined ? null : { kind: 'route' as const, id: spec.route }
    return { name: name ?? spec.route, sheet, words: ON_ROUTE }
  }
  const { kind, id } = spec.view ?? { kind: 'source' as const, id: '' }
  const name = parts[kind].get(id)?.name
  const words = eventWords(kind === 'source' ? parts.source.get(id) : undefined)
  return { name: name ?? id, sheet: name === undefined ? null : { kind, id }, words }
}

/** Of the same players, on the game as it is now, drafts and all; set beside the first once it is there. */
export async function runAgain(client: QueryClient, trial: TrialOut): Promise<void> {
  const { id, revision, unsaved } = useGame.getState()
  const asked: TrialIn = {
    ...trial.spec,
    name: `${trial.name}, again`.slice(0, 120),
    revision,
    draft: unsaved,
    beside: trial.id,
    knowingly: true,
  }
  const made = await api.runTrial(id, asked)
  await client.invalidateQueries({ queryKey: ['trials', id] })
  show({ kind: 'trial', id: made.id })
}

// Questions about odds, asked anew whenever what they rest on changes; the last answer stays on
// screen until the next one is there.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { ahead, useGame, viewInSight } from '@/game/store'
import type { EntryIn, Focus, View } from './types'
import { api, type Looked } from './client'
import { askAhead, inTurn, type Pace } from './lanes'

/** What is looked at now, and a key that changes when an answer could. */
function useLooked(): { id: string; key: unknown[]; looked: Looked | null } {
  const { id, revision, depth, flags, draft, pending } = useGame()
  const { kind, id: name } = useGame(viewInSight) ?? {}
  return useMemo(() => {
    const view = kind && name ? { kind, id: name } : null
    // Edits on their way count as drafts until they are saved.
    const edits = [...pending.flatMap((change) => change.entries), ...draft]
    const looked = view && { view, depth, flags, draft: edits }
    return { id, key: [id, revision, view, depth, flags, edits], looked }
  }, [id, revision, kind, name, depth, flags, draft, pending])
}

/** A focus on what is there; a line that was removed has no reading. */
function usePresent(focus: Focus | null): Focus | null {
  const parts = useGame((state) => state.parts)
  if (focus?.kind !== 'line') return focus
  const lines = parts.table.get(focus.table ?? '')?.lines ?? []
  return lines.some((line) => line.id === focus.line) ? focus : null
}

export function useOdds(wanted: Focus | null) {
  const { id, key, looked } = useLooked()
  const focus = usePresent(wanted)
  const queries = useQueryClient()
  const of = (draft: EntryIn[]) => ({ ...(looked as Looked), draft, focus })
  const keyOf = (draft: EntryIn[]) => ['odds', ...key.slice(0, -1), draft, focus]
  const drafted = looked?.draft ?? []
  useEffect(() => {
    // The next draft's odds are asked for while these are drawn, unless they are known.
    ahead.of = (draft) => {
      const edits = [...useGame.getState().pending.flatMap((change) => change.entries), ...draft]
      if (looked && queries.getQueryData(keyOf(edits)) === undefined)
        askAhead('odds', JSON.stringify([id, of(edits)]), () => api.odds(id, of(edits)))
    }
  })
  return useQuery({
    queryKey: keyOf(drafted),
    queryFn: ({ signal }) => {
      const key = JSON.stringify([id, of(drafted)])
      return inTurn('odds', signal, () => api.odds(id, of(drafted)), { key })
    },
    enabled: looked !== null,
    placeholderData: keepPreviousData,
  })
}

// While something is dragged the odds follow as fast as they can. The spread, which takes longest,
// and the profile follow at a pace of their own, and leave the server to the odds.
const SPREAD_PACE: Pace = { apart: 500, rest: 10 }
const PROFILE_PACE: Pace = { apart: 150, rest: 6 }
const TARGETS_PACE: Pace = { apart: 250, rest: 8 }

export function useSpread(events: number) {
  const { id, key, looked } = useLooked()
  const dragged = useGame((state) => state.draft.length > 0)
  return useQuery({
    queryKey: ['spread', ...key, events],
    queryFn: ({ signal }) =>
      inTurn('spread', signal, () => api.spread(id, { ...(looked as Looked), events }), {
        pace: dragged ? SPREAD_PACE : undefined,
      }),
    enabled: looked !== null,
    placeholderData: keepPreviousData,
  })
}

/** Tier shares by depth of what is in sight: of a source or table, or of what a visit brings. */
export function useProfile() {
  const { id, revision, flags, draft, pending } = useGame()
  const view = useGame(viewInSight)
  const meets = useGame((state) => state.sheet?.kind === 'meets')
  const edits = [...pending.flatMap((change) => change.entries), ...draft]
  const asked = { flags, draft: edits }
  return useQuery({
    queryKey: ['profile', id, revision, view, meets, flags, edits],
    queryFn: ({ signal }) =>
      inTurn(
        'profile',
        signal,
        () =>
          meets
            ? api.meetsProfile(id, asked)
            : api.profile(id, { view: view as View, depth: 1, ...asked }),
        { pace: draft.length ? PROFILE_PACE : undefined },
      ),
    enabled: meets || view !== null,
    // Where nothing is in sight there is no profile either.
    placeholderData: meets || view !== null ? keepPreviousData : undefined,
  })
}

/** What is in sight at every depth; or something else, null for nothing. With `swings` also how far
 * the number of each item swings, which takes the server longer. */
export function useDepths({ of, swings = false }: { of?: View | null; swings?: boolean } = {}) {
  const { id, revision, flags, draft, pending } = useGame()
  const sight = useGame(viewInSight)
  const view = of === undefined ? sight : of
  const edits = [...pending.flatMap((change) => change.entries), ...draft]
  return useQuery({
    queryKey: ['depths', id, revision, view, flags, edits, swings],
    queryFn: ({ signal }) =>
      inTurn(`depths of ${view?.kind} ${view?.id}`, signal, () =>
        api.depths(id, { view: view as View, depth: 1, flags, draft: edits, swings }),
      ),
    enabled: view !== null,
    placeholderData: of === undefined ? keepPreviousData : undefined,
  })
}

export function useItemView(item: string, swings: boolean) {
  const { id, revision, flags, draft } = useGame()
  const asked = { flags, draft, swings }
  return useQuery({
    queryKey: ['item', id, revision, item, asked],
    queryFn: ({ signal }) => inTurn('item', signal, () => api.itemView(id, item, asked)),
    placeholderData: keepPreviousData,
  })
}

export function useTierView(tier: string, swings: boolean) {
  const { id, revision, flags, draft } = useGame()
  const asked = { flags, draft, swings }
  return useQuery({
    queryKey: ['tier', id, revision, tier, asked],
    queryFn: ({ signal }) => inTurn('tier', signal, () => api.tierView(id, tier, asked)),
    placeholderData: keepPreviousData,
  })
}

export function useMeets(points: number) {
  const { id, revision, depth, flags, draft } = useGame()
  return useQuery({
    queryKey: ['meets', id, revision, depth, points, flags, draft],
    queryFn: ({ signal }) =>
      inTurn('meets', signal, () => api.meets(id, { depth, points, flags, draft })),
    placeholderData: keepPreviousData,
  })
}

/** The table under every rule, with the edits that are on their way. */
export function useCompare(table: string) {
  const { id, revision, depth, flags, draft, pending } = useGame()
  const edits = [...pending.flatMap((change) => change.entries), ...draft]
  return useQuery({
    queryKey: ['compare', id, revision, table, depth, flags, edits],
    queryFn: ({ signal }) =>
      inTurn('compare', signal, () => api.compare(id, { table, depth, flags, draft: edits })),
    placeholderData: keepPreviousData,
  })
}

/** Where these targets stand, or all; those that an edit does not reach cost the server next to nothing. */
export function useTargets(ids: string[] | null = null) {
  const { id, revision, draft, pending } = useGame()
  const edits = [...pending.flatMap((change) => change.entries), ...draft]
  return useQuery({
    queryKey: ['targets', id, revision, ids, edits],
    queryFn: ({ signal }) =>
      inTurn('targets', signal, () => api.targets(id, { ids, draft: edits }), {
        pace: draft.length ? TARGETS_PACE : undefined,
      }),
    enabled: id !== '' && ids?.length !== 0,
    placeholderData: keepPreviousData,
  })
}

export function useFindings() {
  const { id, revision } = useGame()
  return useQuery({
    queryKey: ['findings', id, revision],
    queryFn: () => api.findings(id),
    enabled: id !== '',
    placeholderData: keepPreviousData,
  })
}

export function useTrials() {
  const id = useGame((state) => state.id)
  return useQuery({ queryKey: ['trials', id], queryFn: () => api.trials(id), enabled: id !== '' })
}

export function useTrial(trial: string) {
  const id = useGame((state) => state.id)
  // The list hears the news; once it says that a trial has ended, the trial is fetched anew.
  const { data: trials = [] } = useTrials()
  const status = trials.find((one) => one.id === trial)?.status
  return useQuery({
    queryKey: ['trial', id, trial, status],
    placeholderData: keepPreviousData,
    queryFn: () => api.trial(id, trial),
    enabled: id !== '' && trial !== 'new',
  })
}

export function useGames() {
  return useQuery({ queryKey: ['games'], queryFn: api.games })
}

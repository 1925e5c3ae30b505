// Questions about odds, asked anew whenever what they rest on changes; the last answer stays on
// screen until the next one is there.
import { useIsFetching, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { aboutDraft, useAbout, type About } from '@/game/asked'
import { ahead, useGame, viewInSight } from '@/game/store'
import { savedNow } from '@/game/sync'
import { useAnswer } from './answer'
import { useLate } from './useLate'
import type { Focus, OddsOut, View } from '@/api/types'
import { api, type KeptAsked, type StallAsked, type Subject, type WhereAsked } from '@/api/client'
import { askAhead, inTurn, type Pace } from '@/api/lanes'

/** Whether numbers on screen are of before, and those of now are still worked out: odds, or what else is
 * asked for. */
export function useStaleOdds(asked: Asking = 'odds'): boolean {
  return useLate(useIsFetching({ queryKey: [asked] }) > 0)
}

/** What a sheet's numbers come from. */
export type Asking =
  'overview' | 'odds' | 'depths' | 'targets' | 'route' | 'meets' | 'kept' | 'place' | 'stall'

/** What is looked at now: the game that it is of, the question's subject, and what it rests on. */
function useLooked() {
  const about = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  const { kind, id: name } = useGame(viewInSight) ?? {}
  return useMemo(() => {
    const view = kind && name ? { kind, id: name } : null
    return { id, about, subject: view && { view, depth, flags } }
  }, [id, kind, name, depth, flags, about])
}

/** A focus on what is there; a line that was removed has no reading. */
function usePresent(focus: Focus | null): Focus | null {
  const parts = useGame((state) => state.parts)
  if (focus?.kind !== 'line') return focus
  const lines = parts.table.get(focus.table ?? '')?.lines ?? []
  return lines.some((line) => line.id === focus.line) ? focus : null
}

export function useOdds(wanted: Focus | null) {
  const { id, about, subject } = useLooked()
  const focus = usePresent(wanted)
  const queries = useQueryClient()
  const keyOf = ({ content, isQuick }: About) => [
    'odds',
    id,
    subject?.view,
    subject,
    content,
    focus,
    isQuick,
  ]
  const laneKey = (of: About) => JSON.stringify(keyOf(of))
  useEffect(() => {
    // The next draft's odds are asked for while these are drawn, unless they are known.
    ahead.of = (draft) => {
      const next = aboutDraft(draft)
      if (subject && queries.getQueryData(keyOf(next)) === undefined)
        askAhead('odds', laneKey(next), () => api.odds(id, { ...subject, ...next.asked, focus }))
    }
  })
  return useAnswer({
    queryKey: keyOf(about),
    queryFn: async ({ signal }) => {
      const looked = { ...(subject as Subject), ...about.asked }
      // The question before it may have told this one's answer.
      const known = () => queries.getQueryData<OddsOut>(keyOf(about))
      const ask = async () => known() ?? api.odds(id, { ...looked, focus })
      // What is exact of a draft is so of what the draft becomes.
      const onAnswer = (odds: OddsOut) => {
        if (about.isQuick && isExact(odds))
          queries.setQueryData(keyOf({ ...about, isQuick: false }), odds)
      }
      return inTurn('odds', signal, ask, { key: laneKey(about), onAnswer })
    },
    enabled: subject !== null,
    same: 3,
  })
}

function isExact({ sheet, wait }: OddsOut): boolean {
  return [sheet.next.method, sheet.later.method, wait?.method ?? 'exact'].every(
    (method) => method === 'exact',
  )
}

// While something is dragged the odds follow as fast as they can. The spread, which takes longest,
// and the profile follow at a pace of their own, and leave the server to the odds.
const SPREAD_PACE: Pace = { apart: 500, rest: 10 }
const PROFILE_PACE: Pace = { apart: 150, rest: 6 }
const TARGETS_PACE: Pace = { apart: 250, rest: 8 }

export function useSpread(events: number) {
  const { id, about, subject } = useLooked()
  const dragged = useDragged()
  return useAnswer({
    queryKey: ['spread', id, subject?.view, subject, about.content, events, about.isQuick],
    queryFn: ({ signal }) => {
      const looked = { ...(subject as Subject), ...about.asked }
      return inTurn('spread', signal, () => api.spread(id, { ...looked, events }, signal), {
        pace: dragged ? SPREAD_PACE : undefined,
      })
    },
    enabled: subject !== null,
    same: 3,
  })
}

const useDragged = () => useGame((state) => state.draft.length > 0)

/** Tier shares by depth of what is in sight: of a source or table, or of what a visit brings. */
export function useProfile() {
  const { asked, content } = useAbout()
  const [id, flags] = useGame(useShallow((state) => [state.id, state.flags]))
  const view = useGame(useShallow(viewInSight))
  const meets = useGame((state) => state.sheet?.kind === 'meets')
  const dragged = useDragged()
  return useAnswer({
    queryKey: ['profile', id, view, meets, flags, content],
    queryFn: ({ signal }) =>
      inTurn(
        'profile',
        signal,
        () =>
          meets
            ? api.meetsProfile(id, { flags, ...asked })
            : api.profile(id, { view: view as View, depth: 1, flags, ...asked }),
        { pace: dragged ? PROFILE_PACE : undefined },
      ),
    enabled: meets || view !== null,
    // Where nothing is in sight there is no profile either.
    same: 4,
  })
}

/** What is in sight at every depth; or something else, null for nothing. With `swings` also how far
 * the number of each item swings, which takes the server longer. */
export function useDepths({ of, swings = false }: { of?: View | null; swings?: boolean } = {}) {
  const { asked, content } = useAbout()
  const [id, flags] = useGame(useShallow((state) => [state.id, state.flags]))
  const sight = useGame(useShallow(viewInSight))
  const view = of === undefined ? sight : of
  return useAnswer({
    queryKey: ['depths', id, view, flags, content, swings],
    queryFn: ({ signal }) =>
      inTurn(`depths of ${view?.kind} ${view?.id}`, signal, () =>
        api.depths(id, { view: view as View, depth: 1, flags, swings, ...asked }, signal),
      ),
    enabled: view !== null,
    same: 3,
  })
}

export function useItemView(item: string, swings: boolean) {
  return useWhere('item', item, swings, api.itemView)
}

export function useTierView(tier: string, swings: boolean) {
  return useWhere('tier', tier, swings, api.tierView)
}

function useWhere<T>(
  kind: string,
  name: string,
  swings: boolean,
  ask: (id: string, name: string, asked: WhereAsked, signal: AbortSignal) => Promise<T>,
) {
  const { asked, content } = useAbout()
  const [id, flags] = useGame(useShallow((state) => [state.id, state.flags]))
  return useAnswer({
    queryKey: [kind, id, name, flags, content, swings],
    queryFn: ({ signal }) =>
      inTurn(kind, signal, () => ask(id, name, { flags, swings, ...asked }, signal)),
    same: 3,
  })
}

/** The whole game: at every depth, of every item, of money. */
export function useOverview() {
  const { asked, content } = useAbout()
  const [id, flags] = useGame(useShallow((state) => [state.id, state.flags]))
  return useAnswer({
    queryKey: ['overview', id, flags, content],
    queryFn: ({ signal }) =>
      inTurn('overview', signal, () => api.overview(id, { flags, ...asked }, signal)),
    same: 2,
  })
}

/** What players own after so many runs of a route. */
export function useCollection(route: string) {
  const { asked, content } = useAbout()
  const id = useGame((state) => state.id)
  return useAnswer({
    queryKey: ['collection', id, route, content],
    queryFn: ({ signal }) =>
      inTurn('collection', signal, () => api.collection(id, { route, ...asked }, signal)),
    retry: false,
    same: 3,
  })
}

export function useMeets(points: number) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  return useAnswer({
    queryKey: ['meets', id, depth, points, flags, content],
    queryFn: ({ signal }) =>
      inTurn('meets', signal, () => api.meets(id, { depth, points, flags, ...asked }, signal)),
    same: 2,
  })
}

/** The table under every rule, with the edits that are on their way. */
export function useCompare(table: string) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  return useAnswer({
    queryKey: ['compare', id, table, depth, flags, content],
    queryFn: ({ signal }) =>
      inTurn('compare', signal, () => api.compare(id, { table, depth, flags, ...asked }, signal)),
    same: 3,
  })
}

/** Where these targets stand, or all; those that an edit does not reach cost the server next to nothing. */
export function useTargets(ids: string[] | null = null) {
  const { asked, content } = useAbout()
  const id = useGame((state) => state.id)
  const dragged = useDragged()
  return useAnswer({
    queryKey: ['targets', id, ids, content],
    queryFn: ({ signal }) =>
      inTurn('targets', signal, () => api.targets(id, { ids, ...asked }), {
        pace: dragged ? TARGETS_PACE : undefined,
      }),
    enabled: id !== '' && ids?.length !== 0,
    same: 2,
  })
}

/** Which numbers move a target's figure at the depth in view. */
export function useLevers(target: string, isAsked: boolean) {
  const { asked, content } = useAbout()
  const [id, depth] = useGame(useShallow((state) => [state.id, state.depth]))
  return useAnswer({
    queryKey: ['levers', id, target, depth, content],
    queryFn: ({ signal }) => api.levers(id, { target, depth, ...asked }, signal),
    enabled: isAsked,
    same: 3,
  })
}

/** Mean against swing of what is in view, numbers moving by no more than a factor. */
export function useFrontier(most: number) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(
    useShallow((state) => [state.id, state.depth, state.flags] as const),
  )
  const view = useGame(viewInSight)
  return useAnswer({
    queryKey: ['frontier', id, view, depth, flags, most, content],
    queryFn: ({ signal }) =>
      api.frontier(id, { view: view as View, depth, flags, most, ...asked }, signal),
    enabled: view !== null,
    same: 3,
  })
}

export function useFindings() {
  const [id, revision] = useGame(useShallow((state) => [state.id, state.revision]))
  return useAnswer({
    queryKey: ['findings', id, revision],
    // A mend is made of what was saved when it was asked for.
    queryFn: async () => {
      const seen = savedNow(id)
      return { ...(await api.findings(id)), seen }
    },
    enabled: id !== '',
    same: 2,
  })
}

/** What is expected at every stop of a route. */
export function useRouteOdds(route: string) {
  const { asked, content } = useAbout()
  const id = useGame((state) => state.id)
  return useAnswer({
    queryKey: ['route', id, route, content],
    queryFn: ({ signal }) =>
      inTurn('route', signal, () => api.routeOdds(id, { route, ...asked }, signal)),
    same: 3,
  })
}

/** What players keep along a route, or in so many events of a source at the depth in view. */
export function useKept(of: { route: string } | { source: string; events: number } | null) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  const where = of && ('route' in of ? of : { ...of, depth, flags })
  return useAnswer({
    queryKey: ['kept', id, of && ('route' in of ? of.route : of.source), where, content],
    queryFn: ({ signal }) =>
      inTurn('kept', signal, () => api.kept(id, { ...(where as KeptAsked), ...asked }, signal)),
    enabled: where !== null,
    retry: false,
    same: 3,
  })
}

/** What is worn after so many events of a source, at every depth. */
export function useKit(source: string | null, events: number) {
  const { asked, content } = useAbout()
  const [id, flags] = useGame(useShallow((state) => [state.id, state.flags]))
  return useAnswer({
    queryKey: ['kit', id, source, events, flags, content],
    queryFn: ({ signal }) =>
      inTurn('kit', signal, () =>
        api.kit(id, { source: source ?? '', events, flags, ...asked }, signal),
      ),
    enabled: source !== null,
    retry: false,
    same: 3,
  })
}

/** A container's cells at the depth in view, and one opening packed. */
export function useCells(source: string, opening: number) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  return useAnswer({
    queryKey: ['cells', id, source, opening, depth, flags, content],
    queryFn: ({ signal }) =>
      inTurn('cells', signal, () =>
        api.cells(id, { source, opening, depth, flags, ...asked }, signal),
      ),
    retry: false,
    same: 3,
  })
}

/** The bag of one player on a route, packed. */
export function useBag(route: string, player: number) {
  const { asked, content } = useAbout()
  const id = useGame((state) => state.id)
  return useAnswer({
    queryKey: ['bag', id, route, player, content],
    queryFn: ({ signal }) =>
      inTurn('bag', signal, () => api.bag(id, { route, player, ...asked }, signal)),
    retry: false,
    same: 3,
  })
}

/** What things cost that a parcel gives at the depth in view. */
export function usePrice(source: string) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  return useAnswer({
    queryKey: ['price', id, source, depth, flags, content],
    queryFn: ({ signal }) =>
      inTurn('price', signal, () => api.price(id, { source, depth, flags, ...asked }, signal)),
    retry: false,
    same: 3,
  })
}

/** A place at the depth in view; who comes back `every` so many seconds; one setting-out by its seed. */
export function usePlace(place: string, every: number | null, seed: number | null) {
  const { asked, content } = useAbout()
  const [id, depth, flags] = useGame(useShallow((state) => [state.id, state.depth, state.flags]))
  return useAnswer({
    queryKey: ['place', id, place, every, seed, depth, flags, content],
    queryFn: ({ signal }) =>
      inTurn('place', signal, () =>
        api.place(id, { place, every, seed, depth, flags, ...asked }, signal),
      ),
    retry: false,
    same: 3,
  })
}

/** A stall's calendar from a moment on. */
export function useStall(of: StallAsked) {
  const { asked, content } = useAbout()
  const id = useGame((state) => state.id)
  return useAnswer({
    queryKey: ['stall', id, of.stall, of, content],
    queryFn: ({ signal }) =>
      inTurn('stall', signal, () => api.stall(id, { ...of, ...asked }, signal)),
    retry: false,
    same: 3,
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
  return useAnswer({
    queryKey: ['trial', id, trial, status],
    same: 3,
    queryFn: () => api.trial(id, trial),
    enabled: id !== '' && trial !== 'new',
    // While it runs what has been played is told again and again.
    refetchInterval: status === 'running' ? 800 : false,
  })
}

export function useGames() {
  return useQuery({ queryKey: ['games'], queryFn: api.games })
}

/** Two trials beside one another; `other` is the one before. */
export function useTrialComparison(trial: string, other: string | null) {
  const id = useGame((state) => state.id)
  return useAnswer({
    same: 4,
    queryKey: ['trials compared', id, trial, other],
    queryFn: () => api.compareTrials(id, trial, other ?? ''),
    enabled: other !== null,
    staleTime: Infinity,
  })
}

const REPLAYED = 100 // events at a time

/** A player of a trial again, from an event on. */
export function useReplay(trial: string, player: number | null, first: number) {
  const id = useGame((state) => state.id)
  return useAnswer({
    queryKey: ['replay', id, trial, player, first],
    queryFn: () => api.replay(id, trial, player ?? 0, first, REPLAYED),
    enabled: player !== null,
    staleTime: Infinity,
    same: 3,
  })
}

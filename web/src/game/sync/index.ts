// Every edit is saved by itself: shown at once, kept by the browser, sent in order, sent again while the
// server is away, put together with what others did, taken back where it is refused. What is known and
// what follows from it is in `state`; here it is done.
import { toast } from 'sonner'
import { api, ApiError, Offline } from '@/api/client'
import type { EntryIn, GameBody } from '@/api/types'
import { bodyOf } from '../entries'
import { withOwnCurves } from '../own'
import type { Kind, Parts } from '../parts'
import { entered, useGame, type Failure } from '../store'
import { whoAmI } from '../who'
import { keep, takeOver } from './outbox'
import { isOpen, thisPage } from './page'
import { fresh } from '@/api/fresh'
import {
  edited,
  opened,
  reduced,
  stepsNow,
  type Change,
  type Doing,
  type Effect,
  type Sync,
  type SyncEvent,
} from './state'

const RETRY = 1000
const PAST = 'this is the game as it was; come back to today, or let it go on from here, to edit it'
// Of every game that is open, or has something that is not saved yet.
const games = new Map<string, Sync>()
const makers = new Map<string, (told: Told) => void>()

interface Told {
  failure: string | null
  /** What was done, as the server calls it. */
  label: string
  /** Otherwise it is only kept here, and well for now. */
  isDone: boolean
}

/**
 * Save an edit; only `game/edit` does so. Resolves to null once it is saved, or to why it was refused; while
 * the server is away, to null as soon as the edit is kept here. `seen` is the game that the edit was thought
 * of in: what has changed since and the edit does not touch stays.
 */
export async function commit(
  label: string,
  edits: EntryIn[],
  seen: Parts,
): Promise<Failure | null> {
  if (!edits.length) return null
  const { parts } = useGame.getState()
  const made = withOwnCurves(parts, edits).map((entry) => ({
    ...entry,
    seen: bodyOf(seen, entry.kind, entry.id),
  }))
  const { failure } = await make(label, { what: 'edit', edits: made })
  return failure === null ? null : { message: failure }
}

/** Remove things of a kind, and whatever needs them, in one step. */
export async function removeParts(
  kind: Kind,
  gone: { id: string; name: string }[],
): Promise<Failure | null> {
  const ids = gone.map((one) => one.id)
  const { failure } = await make(removedWords(kind, gone), { what: 'removal', kind, ids })
  return failure === null ? null : { message: failure }
}

/** Of a few their names, else how many. */
export function removedWords(kind: Kind, gone: { name: string }[]): string {
  if (gone.length > MOST_NAMED) return `removed ${gone.length} ${kind}s`
  return `removed ${gone.map((one) => one.name).join(', ')}`
}

const MOST_NAMED = 5

export const undo = () => step('undo', 'Undone')
export const redo = () => step('redo', 'Done again')

async function step(what: 'undo' | 'redo', said: string): Promise<void> {
  const { failure, label, isDone } = await make(what, { what })
  if (failure !== null) toast.error(failure, { duration: 6000 })
  else if (isDone) toast(`${said}: ${label}`, { duration: 1600 })
}

function make(label: string, doing: Doing): Promise<Told> {
  const { id, past } = useGame.getState()
  if (past !== null) return Promise.resolve({ failure: PAST, label, isDone: false })
  const change: Change = { token: fresh(), label, doing }
  return new Promise((resolve) => {
    makers.set(change.token, resolve)
    dispatch(id, { type: 'made', change })
  })
}

/** Open a game, with what was made of it here and is not saved yet. */
export async function enter(id: string): Promise<GameBody> {
  const page = await thisPage()
  const game = await api.openGame(id, page)
  const known = games.get(id) // it was left before all of it was saved
  const kept = known ? [] : await takeOver(id, page, isOpen)
  if (kept.length) toast(`${counted(kept.length)} from before, saved now`)
  const [state, effects] = known ? reduced(known, { type: 'loaded', game }) : opened(game, kept)
  games.set(id, state)
  entered(game, { ...viewOf(state), past: null, beside: null })
  effects.forEach((effect) => run(id, effect))
  forgetLeft()
  return game
}

const counted = (many: number) => (many === 1 ? '1 edit' : `${many} edits`)

/** A game as it is saved, as far as it is known here. */
export function savedNow(game: string): Parts {
  return games.get(game)?.saved ?? useGame.getState().parts
}

/** After a clash: mine stands where both touched the same, or theirs does. */
export function settleClash(side: 'mine' | 'theirs'): void {
  dispatch(useGame.getState().id, { type: 'chosen', side })
}

/** The server tells of a revision: another's, unless one of ours is on its way and makes it. */
export function hear(game: string, revision: number): void {
  dispatch(game, { type: 'heard', revision })
}

// --- doing it ------------------------------------------------------------------------------------------

function dispatch(game: string, event: SyncEvent): void {
  const before = games.get(game)
  if (!before) return
  const [state, effects] = reduced(before, event)
  games.set(game, state)
  if (state.queue !== before.queue) void thisPage().then((page) => keep(game, page, state.queue))
  publish(before, state)
  effects.forEach((effect) => run(game, effect))
  forgetLeft()
}

/** Games that were left are forgotten once all of theirs is saved. */
function forgetLeft(): void {
  const { id } = useGame.getState()
  for (const [game, { queue }] of games) if (game !== id && !queue.length) games.delete(game)
}

function publish(before: Sync, state: Sync): void {
  if (useGame.getState().id !== state.game || useGame.getState().past !== null) return
  const isSame = before.saved === state.saved && before.queue === state.queue
  useGame.setState(isSame ? factsOf(state) : viewOf(state))
}

const factsOf = (state: Sync) => ({
  revision: state.revision,
  steps: stepsNow(state),
  offline: state.away,
  conflict: state.clash,
})

const viewOf = (state: Sync) => ({
  ...factsOf(state),
  ...edited(state),
  pending: state.queue,
})

function run(game: string, effect: Effect): void {
  switch (effect.do) {
    case 'send':
      return void send(game, effect.change, effect.base, effect.entries)
    case 'load':
      return void load(game)
    case 'wait':
      return void setTimeout(() => dispatch(game, { type: 'tried again' }), RETRY)
    case 'tell':
      return tell(effect)
  }
}

/** Whoever made it hears once; after that only bad news is news. */
function tell({ token, label, failure, isDone }: Extract<Effect, { do: 'tell' }>): void {
  const maker = makers.get(token)
  if (maker) maker({ failure, label, isDone })
  else if (failure !== null) toast.error(`${label}: ${failure}`)
  makers.delete(token)
}

async function send(game: string, change: Change, base: number, entries: EntryIn[]): Promise<void> {
  const { token, doing, label } = change
  const made = { token, page: await thisPage(), who: whoAmI() }
  try {
    const applied =
      doing.what === 'edit'
        ? await api.change(game, { ...made, base, label, entries })
        : doing.what === 'removal'
          ? await api.remove(game, { ...made, base, kind: doing.kind, ...idsOf(doing.ids) })
          : await api[doing.what](game, made)
    dispatch(game, { type: 'acknowledged', token, applied })
  } catch (error) {
    dispatch(game, failed(token, error))
  }
}

/** As the server takes them: one, and others with it. */
const idsOf = ([id = '', ...also]: string[]) => ({ id, also })

function failed(token: string, error: unknown): SyncEvent {
  if (error instanceof Offline) return { type: 'unreachable' }
  if (!(error instanceof ApiError)) return { type: 'refused', token, why: String(error) }
  const { revision } = error.problem
  return error.status === 409 && typeof revision === 'number'
    ? { type: 'behind', token, revision }
    : { type: 'refused', token, why: error.sentences }
}

async function load(game: string): Promise<void> {
  try {
    dispatch(game, { type: 'loaded', game: await api.openGame(game, await thisPage()) })
  } catch (error) {
    dispatch(game, error instanceof ApiError ? { type: 'gone' } : { type: 'not loaded' })
  }
}

/** What is not saved is kept here; but whoever leaves while the server is away should know. */
window.addEventListener('beforeunload', (event) => {
  if ([...games.values()].some((state) => state.away && state.queue.length)) event.preventDefault()
})

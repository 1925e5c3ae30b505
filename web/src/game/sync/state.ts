// What a page knows of a game while edits go to and fro: what the server has, what was made here and is
// not there yet, what is on its way. Pure: an event gives a new state, and what is to be done about it.
//
// An edit is whole bodies, with the bodies that whoever made it had seen. What others changed since is
// put together with it where they touched different things; where both touched the same, it is asked.
import type { EntryIn, GameBody, Steps } from '@/api/types'
import { contentAfter, contentOfRevision } from '../content'
import { bodyOf } from '../entries'
import { partsOf, withEntries, type Parts } from '../parts'
import { merged, same, type Json } from './merge'

export interface Edit extends EntryIn {
  /** The body that the edit was made of; null where there was none. */
  seen: Json
}

export type Doing =
  | { what: 'edit'; edits: Edit[] }
  | { what: 'removal'; kind: string; ids: string[] }
  | { what: 'undo' | 'redo' }

export interface Change {
  /** Its own id: sent again it is answered as the first time, and done once. */
  token: string
  label: string
  doing: Doing
  /** Done at this revision, which has not come here yet, since others have edited in between. */
  done?: number
  /** It was sent, and may be saved though no answer came. */
  isSent?: boolean
}

/** Both changed the same: what is asked about, thing by thing. */
export interface Clash {
  token: string
  label: string
  things: { kind: string; id: string; mine: Json; theirs: Json; places: string[] }[]
}

export interface Sync {
  game: string
  /** Of what was saved, as far as it is known here. */
  revision: number
  saved: Parts
  /** What that holds, as a word: see `content`. */
  content: string
  steps: Steps
  queue: Change[]
  /** What was taken back last: edits before they went out, and what the server was asked to take back. */
  undone: (Change | 'saved')[]
  isSending: boolean
  isLoading: boolean
  /** What is saved is known, but not in which order it stands. */
  isStale: boolean
  /** The latest revision that the server told of. */
  heard: number
  /** The server could not be reached when it was last tried. */
  away: boolean
  /** It is tried again in a moment, not before. */
  isWaiting: boolean
  clash: Clash | null
}

export interface Applied {
  revision: number
  label: string
  entries: { kind: string; id: string; body: Record<string, unknown> | null }[]
  steps: Steps
  in_order?: boolean
}

export type SyncEvent =
  | { type: 'made'; change: Change }
  | { type: 'acknowledged'; token: string; applied: Applied }
  | { type: 'refused'; token: string; why: string }
  | { type: 'behind'; token: string; revision: number }
  | { type: 'unreachable' }
  | { type: 'tried again' }
  | { type: 'heard'; revision: number }
  | { type: 'loaded'; game: GameBody }
  | { type: 'not loaded' }
  /** The game is not there any more. */
  | { type: 'gone' }
  | { type: 'chosen'; side: 'mine' | 'theirs' }

export type Effect =
  | { do: 'send'; change: Change; base: number; entries: EntryIn[] }
  | { do: 'load' }
  | { do: 'wait' }
  /** Tell whoever made a change how it went: null is well. */
  | { do: 'tell'; token: string; failure: string | null; label: string; isDone: boolean }

export function opened(game: GameBody, kept: Change[] = []): [Sync, Effect[]] {
  const start: Sync = {
    game: game.id,
    revision: game.revision,
    saved: partsOf(game),
    content: contentOfRevision(game.revision),
    steps: game.steps,
    queue: kept,
    undone: [],
    isSending: false,
    isLoading: false,
    isStale: false,
    heard: game.revision,
    away: false,
    isWaiting: false,
    clash: null,
  }
  return onward(start, [])
}

export function reduced(state: Sync, event: SyncEvent): [Sync, Effect[]] {
  const [next, effects] = stepped(state, event)
  return onward(next, effects)
}

function stepped(state: Sync, event: SyncEvent): [Sync, Effect[]] {
  switch (event.type) {
    case 'made':
      return made(state, event.change)
    case 'acknowledged':
      return acknowledged(state, event.token, event.applied)
    case 'refused':
      return refused(state, event.token, event.why)
    case 'behind':
      return [reached(state, event.revision), []]
    case 'unreachable':
      return [
        { ...state, isSending: false, away: true, isWaiting: true },
        [{ do: 'wait' }, ...state.queue.map(kept)],
      ]
    case 'tried again':
      return [{ ...state, isWaiting: false }, []]
    case 'heard':
      return [{ ...state, heard: Math.max(state.heard, event.revision) }, []]
    case 'loaded':
      return loaded(state, event.game)
    case 'not loaded':
      return [{ ...state, isLoading: false, isWaiting: true }, [{ do: 'wait' }]]
    case 'gone':
      return [{ ...state, isLoading: false, isStale: false, heard: state.revision }, []]
    case 'chosen':
      return chosen(state, event.side)
  }
}

/** Whatever happened: send what is next, and fetch what others did. One of each at a time. */
function onward(state: Sync, effects: Effect[]): [Sync, Effect[]] {
  if (state.isSending || state.isWaiting) return [state, effects]
  const [next, sent] = state.clash ? [state, []] : nextSent(state)
  const isBehind = next.heard > next.revision || next.isStale
  if (next.isSending || next.isLoading || !isBehind) return [next, [...effects, ...sent]]
  return [{ ...next, isLoading: true }, [...effects, ...sent, { do: 'load' }]]
}

function nextSent(state: Sync): [Sync, Effect[]] {
  const [first] = state.queue
  // Where others have been faster their edits come first: what is next may have to go on from them.
  if (!first || first.done !== undefined || state.heard > state.revision) return [state, []]
  if (first.doing.what !== 'edit') return sending(state, first, [])
  const clash = clashOf(state, first)
  if (clash) return [{ ...state, clash }, []]
  return sending(state, first, rebased(state.saved, first.doing.edits).map(entryOf))
}

function sending(state: Sync, change: Change, entries: EntryIn[]): [Sync, Effect[]] {
  const queue = state.queue.map((one) => (one === change ? { ...change, isSent: true } : one))
  return [
    { ...state, queue, isSending: true },
    [{ do: 'send', change, base: state.revision, entries }],
  ]
}

// --- making, taking back, doing again ------------------------------------------------------------------

const AWAY = 'the server is out of reach; what is saved can be taken back when it is there again'

function made(state: Sync, change: Change): [Sync, Effect[]] {
  switch (change.doing.what) {
    case 'undo':
      return takenBack(state, change)
    case 'redo':
      return doneAgain(state, change)
    default:
      return waiting({ ...state, undone: [] }, change)
  }
}

function waiting(state: Sync, change: Change): [Sync, Effect[]] {
  const queue = [...state.queue, onTop(state, change)]
  return [{ ...state, queue }, state.away ? [kept(change)] : []]
}

/** What has not gone out is taken back here, at once; what may be saved by the server. */
function takenBack(state: Sync, change: Change): [Sync, Effect[]] {
  const last = inEffect(state.queue).at(-1)
  if (last && !last.isSent) {
    const queue = state.queue.filter((one) => one !== last)
    const undone = [...state.undone, last]
    return [{ ...state, queue, undone }, [told(last, null), told(change, null, last.label)]]
  }
  if (!last && state.away) return [state, [told(change, AWAY)]]
  return waiting({ ...state, undone: [...state.undone, 'saved'] }, change)
}

function doneAgain(state: Sync, change: Change): [Sync, Effect[]] {
  const undone = state.undone.slice(0, -1)
  const last = state.undone.at(-1)
  if (last && last !== 'saved') {
    const [next, effects] = waiting({ ...state, undone }, last)
    return [next, [...effects, told(change, null, last.label)]]
  }
  if (!last && state.away) return [state, [told(change, AWAY)]]
  return waiting({ ...state, undone }, change)
}

/** Of what waits, the changes that no undo behind them takes back. */
function inEffect(queue: Change[]): Change[] {
  const found: Change[] = []
  for (const change of queue) {
    if (change.doing.what === 'undo') found.pop()
    else if (change.doing.what !== 'redo') found.push(change)
  }
  return found
}

/** What can be taken back and done again now: what waits here, else what the server said. */
export function stepsNow({ queue, undone, steps, away }: Sync): Steps {
  const last = undone.at(-1)
  const saved = (label: string | null) => (away ? null : label)
  return {
    undo: inEffect(queue).at(-1)?.label ?? saved(steps.undo),
    redo: last && last !== 'saved' ? last.label : saved(steps.redo),
  }
}

/** The server has answered. */
function reached(state: Sync, revision: number): Sync {
  return { ...state, isSending: false, away: false, heard: Math.max(state.heard, revision) }
}

function acknowledged(state: Sync, token: string, applied: Applied): [Sync, Effect[]] {
  const [first, ...rest] = state.queue
  if (first?.token !== token) return [state, []] // it was answered before
  const now = reached(state, applied.revision)
  const effects = [told(first, null, applied.label)]
  if (applied.revision <= state.revision) return [{ ...now, queue: rest }, effects]
  if (applied.revision > state.revision + 1)
    return [{ ...now, queue: [{ ...first, done: applied.revision }, ...rest] }, effects]
  const saved = withEntries(state.saved, placed(first, applied))
  const content =
    first.doing.what === 'edit'
      ? contentAfter(state.content, rebased(state.saved, first.doing.edits).map(entryOf))
      : contentOfRevision(applied.revision)
  // What an undo does was not known before.
  const edits = first.doing.what === 'edit' ? rebased(state.saved, first.doing.edits) : []
  const queue = moved(rest, withEntries(state.saved, edits.map(entryOf)), saved)
  // Where an undo puts things in order, or brings them back, only the whole game tells where they stand.
  const isStale = now.isStale || (first.doing.what !== 'edit' && !applied.in_order)
  const { revision, steps } = applied
  return [{ ...now, saved, content, queue, steps, revision, isStale }, effects]
}

/** The bodies as the server has them, where the edit put them. */
function placed(change: Change, applied: Applied): EntryIn[] {
  const edits = change.doing.what === 'edit' ? change.doing.edits : []
  return applied.entries.map(({ kind, id, body }) => {
    const edit = edits.find((one) => one.kind === kind && one.id === id)
    return { kind, id, body, before: edit?.before }
  })
}

function refused(state: Sync, token: string, why: string): [Sync, Effect[]] {
  const [first, ...rest] = state.queue
  if (first?.token !== token) return [state, []]
  const touched = first.doing.what === 'edit' ? first.doing.edits : []
  const queue = seated(rest, state.saved, touched)
  return [{ ...reached(state, 0), queue }, [told(first, why)]]
}

/** An answer that is older than what is known is late. */
function loaded(state: Sync, game: GameBody): [Sync, Effect[]] {
  const now = { ...state, isLoading: false, away: false }
  if (game.id !== state.game || game.revision < state.revision) return [now, []]
  const { revision, steps } = game
  const heard = Math.max(state.heard, revision)
  const queue = state.queue.filter((one) => one.done === undefined || one.done > revision)
  const content = revision === state.revision ? state.content : contentOfRevision(revision)
  const known = { saved: partsOf(game), content, revision, steps, isStale: false }
  // A clash is asked again, if it still is one.
  return [{ ...now, ...known, heard, queue, clash: null }, []]
}

function chosen(state: Sync, side: 'mine' | 'theirs'): [Sync, Effect[]] {
  const [first, ...rest] = state.queue
  if (!state.clash || first?.doing.what !== 'edit') return [{ ...state, clash: null }, []]
  const edits = settledFor(state.saved, first.doing.edits, side)
  const later = side === 'theirs' ? withoutClashing(rest, first.doing.edits, edits) : rest
  const now = { ...state, clash: null }
  if (edits.every((edit) => same(edit.body as Json, edit.seen)))
    return [{ ...now, queue: later }, [told(first, null)]]
  return [{ ...now, queue: [{ ...first, doing: { what: 'edit', edits } }, ...later] }, []]
}

/** Changes that wait behind one of which a part was given up: made of what it was made of, with what stays of
 * it. Where they touch what was given up they are asked about in their turn. */
function withoutClashing(queue: Change[], given: Edit[], settled: Edit[]): Change[] {
  return queue.map((change) => {
    if (change.doing.what !== 'edit') return change
    const edits = change.doing.edits.map((edit) => {
      const at = given.findIndex((one) => one.kind === edit.kind && one.id === edit.id)
      const [was, now] = [given[at], settled[at]]
      if (!was || !now) return edit
      const stays = merged(now.seen, now.body as Json, was.seen, 'mine').body
      return onOther(edit, was.body as Json, stays)
    })
    return { ...change, doing: { what: 'edit', edits } }
  })
}

function clashOf(state: Sync, change: Change): Clash | null {
  if (change.doing.what !== 'edit') return null
  const things = change.doing.edits.flatMap((edit) => {
    const theirs = bodyOf(state.saved, edit.kind, edit.id)
    const { clashes } = merged(edit.seen, edit.body as Json, theirs, 'mine')
    const { kind, id } = edit
    return clashes.length ? [{ kind, id, mine: edit.body as Json, theirs, places: clashes }] : []
  })
  return things.length ? { token: change.token, label: change.label, things } : null
}

// --- edits on top of one another ---------------------------------------------------------------------

/** A change as made on top of those of ours that wait before it, whatever its maker had seen of them. What
 * others did since then stays to be asked about. */
function onTop(state: Sync, change: Change): Change {
  if (change.doing.what !== 'edit') return change
  const edits = after(state.saved, edited(state).parts, change.doing.edits)
  return { ...change, doing: { what: 'edit', edits } }
}

/** Edits that were made of one game, as made of another that is the same hand's work. */
function after(from: Parts, to: Parts, edits: Edit[]): Edit[] {
  return edits.map((edit) => {
    const [was, now] = [from, to].map((parts) => bodyOf(parts, edit.kind, edit.id)) as [Json, Json]
    return onOther(edit, was, now)
  })
}

/** An edit that rests on one body, as resting on another. */
function onOther(edit: Edit, was: Json, now: Json): Edit {
  if (same(was, now)) return edit
  const seen = merged(was, now, edit.seen, 'mine').body
  const { body } = merged(edit.seen, edit.body as Json, seen, 'mine')
  return { ...edit, body: body as EntryIn['body'], seen }
}

/** Changes that wait, after the first came through: what it was taken for is now what the server has. */
function moved(queue: Change[], taken: Parts, saved: Parts): Change[] {
  let [from, to] = [taken, saved]
  return queue.map((change) => {
    if (change.doing.what !== 'edit') return change
    const edits = after(from, to, change.doing.edits)
    from = withEntries(from, rebased(from, change.doing.edits).map(entryOf))
    to = withEntries(to, rebased(to, edits).map(entryOf))
    return { ...change, doing: { what: 'edit', edits } }
  })
}

/** Changes that wait, after one of ours before them did not come through: what they were made of is what is
 * there now, and they stand where they touch the same. */
function seated(queue: Change[], saved: Parts, touched: { kind: string; id: string }[]): Change[] {
  let parts = saved
  return queue.map((change) => {
    if (change.doing.what !== 'edit') return change
    const edits = change.doing.edits.map((edit) =>
      touched.some((one) => one.kind === edit.kind && one.id === edit.id)
        ? onTopOf(parts, edit, 'mine')
        : edit,
    )
    parts = withEntries(parts, edits.map(entryOf))
    return { ...change, doing: { what: 'edit', edits } }
  })
}

function settledFor(parts: Parts, edits: Edit[], side: 'mine' | 'theirs'): Edit[] {
  return edits.map((edit) => onTopOf(parts, edit, side))
}

function onTopOf(parts: Parts, edit: Edit, side: 'mine' | 'theirs'): Edit {
  const now = bodyOf(parts, edit.kind, edit.id)
  if (same(now, edit.seen)) return edit
  const { body } = merged(edit.seen, edit.body as Json, now, side)
  return { ...edit, body: body as EntryIn['body'], seen: now }
}

/** Edits as they come out on what is saved; what they were made of stays. */
function rebased(parts: Parts, edits: Edit[]): Edit[] {
  return edits.map((edit) => ({ ...edit, body: onTopOf(parts, edit, 'mine').body }))
}

/** The game as it is edited; `unsaved` is what is not saved yet, one edit after the other. */
export interface Edited {
  parts: Parts
  unsaved: EntryIn[]
  content: string
}

export function edited({ saved, queue, content: before }: Sync): Edited {
  let [parts, content] = [saved, before]
  const unsaved: EntryIn[] = []
  for (const { doing } of inEffect(queue)) {
    if (doing.what !== 'edit') continue
    const made = rebased(parts, doing.edits).map(entryOf)
    parts = withEntries(parts, made)
    content = contentAfter(content, made)
    unsaved.push(...made)
  }
  return { parts, unsaved, content }
}

const entryOf = ({ kind, id, body, before }: Edit): EntryIn => ({ kind, id, body, before })

const told = (change: Change, failure: string | null, label = change.label): Effect => ({
  do: 'tell',
  token: change.token,
  failure,
  label,
  isDone: true,
})

/** While the server is away: it is not done, but it is not lost. */
const kept = (change: Change): Effect => ({
  do: 'tell',
  token: change.token,
  failure: null,
  label: change.label,
  isDone: false,
})

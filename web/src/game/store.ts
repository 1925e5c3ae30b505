// The state of the open game: what the server has, what is on its way there, what is looked at.
import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { SheetKind } from './kinds'
import type { EntryIn, Focus, GameBody, Held, Steps, View } from '@/api/types'
import { forget, isBusy, whenFree } from '@/api/lanes'
import { onNewest } from './entries'
import type { Parts } from './parts'
import type { Change, Clash } from './sync/state'
import { targetView } from './targets'
import { takeTyped } from './typed'

export interface Sheet {
  kind: SheetKind
  /** Of the thing it is of; of a sheet that there is one of, a word. */
  id: string
}

/** Why an edit was not taken. */
export interface Failure {
  message: string
}

export interface GameState {
  id: string
  /** Of what is saved. What follows, up to `conflict`, only `sync` writes. */
  revision: number
  /** The game as it is edited: what is saved, with what is not saved yet. */
  parts: Parts
  steps: Steps
  /** Changes that are not saved yet, and the edits among them as they come out on what is. */
  pending: Change[]
  unsaved: EntryIn[]
  /** What the game as it is edited holds, as a word: see `content`. */
  content: string
  offline: boolean
  conflict: Clash | null
  /** The revision that is looked at, where that is not today's: then nothing is edited. */
  past: number | null
  /** Another revision that is shown beside it, in the numbers that were other. */
  beside: { revision: number; parts: Parts } | null
  sheet: Sheet | null
  depth: number
  flags: string[]
  draft: EntryIn[]
  focus: Focus | null
  /** What was just made, and is to be named: its sheet opens with the name selected. */
  naming: string | null
  hot: { table: string; line: string } | null
  /** The source or table looked at last: what a curve's sheet shows the effect on. */
  lastView: View | null
  /** Whether a source or table is shown along all depths. */
  along: boolean
  /** Whether tier shares by depth are of what falls, or of what it is worth. */
  shares: 'falls' | 'worth'
  /** Where the plumb line's scale lies on the page, so that plots over depth line up with it. */
  scaleBox: { top: number; height: number }
  /** Whether the sheet tells the long run rather than a fresh player's next event. */
  longRun: boolean
  /** What the tray's player carries after the rolls so far. */
  held: Held[]
  /** A player of a trial, to be rolled again in the tray; null for a new one. */
  replay: { seed: number; player: number; kernel: number | null } | null
}

export const useGame = create<GameState>()(() => empty())

/** Some of the state: whoever asks is drawn again only when one of these changes. */
export function useGamePart<K extends keyof GameState>(...keys: K[]): Pick<GameState, K> {
  return useGame(
    useShallow(
      (state) => Object.fromEntries(keys.map((key) => [key, state[key]])) as Pick<GameState, K>,
    ),
  )
}

// An edit, or an undo, can take away the depth that is looked at, or a flag that is set: nothing could
// be asked of the game any more.
useGame.subscribe(({ parts, depth, flags }, before) => {
  if (!parts || parts === before.parts) return
  const there = flags.filter((flag) => parts.flag.has(flag))
  const within = clamped(parts, depth)
  if (within !== depth || there.length !== flags.length)
    useGame.setState({ depth: within, flags: there })
})

function clamped(parts: Parts, depth: number): number {
  const { from, to } = parts.settings.depth
  return Math.min(to, Math.max(from, Math.round(depth)))
}

function empty(): GameState {
  return {
    id: '',
    revision: 0,
    parts: undefined as unknown as Parts,
    steps: { undo: null, redo: null },
    pending: [],
    unsaved: [],
    content: '',
    offline: false,
    conflict: null,
    past: null,
    beside: null,
    sheet: null,
    depth: 1,
    flags: [],
    draft: [],
    focus: null,
    naming: null,
    hot: null,
    lastView: null,
    along: false,
    shares: 'falls',
    scaleBox: { top: 144, height: 600 },
    longRun: false,
    held: [],
    replay: null,
  }
}

/** Show a game; `view` is what is known of it. */
export function entered(game: GameBody, view: Partial<GameState> & { parts: Parts }): void {
  const state = useGame.getState()
  const same = state.id === game.id
  const { from, to } = view.parts.settings.depth
  const remembered = Number(sessionStorage.getItem(`depth:${game.id}`)) || middle(from, to)
  const seen = sessionStorage.getItem(`view:${game.id}`)
  useGame.setState({
    ...(same ? {} : { ...empty(), lastView: seen ? (JSON.parse(seen) as View) : null }),
    ...view,
    id: game.id,
    depth: clamped(view.parts, same ? state.depth : remembered),
  })
}

export function closed(): void {
  useGame.setState(empty(), true)
}

export function setDepth(depth: number): void {
  const { id, parts } = useGame.getState()
  const kept = clamped(parts, depth)
  sessionStorage.setItem(`depth:${id}`, String(kept))
  useGame.setState({ depth: kept })
}

let wanted: { draft: EntryIn[]; seen: Parts } | null = null
let drafted: { draft: EntryIn[]; seen: Parts } | null = null
let told = 0 // how often a draft was set, so that one that was taken back is not set after all

/** Asks what a draft will be asked for, before it is shown; whoever asks about odds sets it. */
export const ahead: { of: (draft: EntryIn[]) => void } = { of: () => undefined }

/**
 * Show how an edit would be before it is made. A draft waits until the numbers of the one before it
 * have come; of several that wait only the latest is shown. Its own numbers are asked for at once, so
 * that they are worked out while those before them are drawn. It was made of the game as it was `seen`, and
 * is shown on whatever is there by then.
 */
export function setDraft(draft: EntryIn[], seen = useGame.getState().parts): void {
  told += 1
  const next = { draft, seen }
  if (!draft.length || !isBusy('odds')) {
    wanted = null
    forget('odds')
    return draw(next)
  }
  const waiting = wanted !== null
  wanted = next
  if (!waiting) whenFree('odds', showWanted)
}

function draw(next: { draft: EntryIn[]; seen: Parts }): void {
  drafted = next
  const { parts } = useGame.getState()
  useGame.setState({ draft: onNewest(next.seen, next.draft, parts) })
}

function showWanted(): void {
  const next = wanted
  wanted = null
  if (!next) return
  ahead.of(onNewest(next.seen, next.draft, useGame.getState().parts))
  const then = told
  // The answer that has just come has to reach the screen first.
  setTimeout(() => {
    if (then === told || useGame.getState().draft.length) draw(next)
  })
}

// While something is held others may save theirs: the draft is shown on top of it.
useGame.subscribe(({ parts, draft }, before) => {
  if (parts && parts !== before.parts && draft.length && drafted) draw(drafted)
})

export function show(sheet: Sheet | null, push = true, naming: string | null = null): void {
  const { id, sheet: before } = useGame.getState()
  if (before?.kind === sheet?.kind && before?.id === sheet?.id) return
  takeTyped()
  const view = sheet && viewOf(sheet)
  if (view) sessionStorage.setItem(`view:${id}`, JSON.stringify(view))
  useGame.setState({
    ...{ sheet, focus: null, draft: [], hot: null, replay: null, naming },
    ...(view ? { lastView: view } : {}),
  })
  const path = sheet ? `/g/${id}/${sheet.kind}/${sheet.id}` : `/g/${id}`
  if (push && location.pathname !== path) history.pushState(null, '', path)
}

/** Whether a thing that was just made is to be named now: as its sheet opens. */
export function isNamed(id: string): boolean {
  return useGame.getState().naming === id
}

/** What odds are asked of: the sheet itself, where it is a source or a table. */
export function viewOf(sheet: Sheet | null): View | null {
  return sheet?.kind === 'source' || sheet?.kind === 'table'
    ? { kind: sheet.kind, id: sheet.id }
    : null
}

/** The same, but on a curve's sheet what was looked at before, on a target's what it is of; null once
 * it is deleted. */
export function viewInSight({ sheet, lastView, parts }: GameState): View | null {
  const { kind } = sheet ?? {}
  const target = sheet?.kind === 'target' ? parts.target.get(sheet.id) : undefined
  if (target) return targetView(target)
  const isLooked = kind === 'curve' || kind === 'source' || kind === 'table'
  return isLooked && lastView && parts[lastView.kind].has(lastView.id) ? lastView : null
}

function middle(from: number, to: number): number {
  return Math.round((from + to - 1) / 2)
}

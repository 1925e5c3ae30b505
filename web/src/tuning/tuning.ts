// Finding numbers: what was asked, what was found, and what of it is to be taken. The game stays as it is
// until then; what is found is shown as edits that are only tried.
import { create } from 'zustand'
import { api, ApiError, Offline } from '@/api/client'
import type { EntryIn, TuneOut } from '@/api/types'
import { askedNow } from '@/game/asked'
import { commit } from '@/game/sync'
import { setDraft, useGame } from '@/game/store'

interface Tuning {
  open: boolean
  /** Which targets must hold; null for all that are not put aside. */
  targets: string[] | null
  /** Numbers that stay, by name. */
  keep: string[]
  rounded: boolean
  found: TuneOut | null
  /** What the game held when it was asked. */
  content: string
  /** Numbers that are not to be taken. */
  left: ReadonlySet<string>
  entries: EntryIn[]
  problem: string | null
  /** Stops what is being worked out; null where nothing is. */
  stop: AbortController | null
}

const nothing = { found: null, left: new Set<string>(), entries: [], problem: null, content: '' }

export const useTuning = create<Tuning>()(() => ({
  open: false,
  targets: null,
  keep: [],
  rounded: true,
  stop: null,
  ...nothing,
}))

/** Open the strip, and ask at once. */
export function findNumbers(targets: string[] | null): void {
  useTuning.getState().stop?.abort()
  useTuning.setState({ open: true, targets, keep: [], ...nothing })
  void ask()
}

export async function ask(): Promise<void> {
  useTuning.getState().stop?.abort()
  const { id, content } = useGame.getState()
  const stop = new AbortController()
  setDraft([])
  useTuning.setState({ stop, ...nothing, content })
  const { targets, keep, rounded } = useTuning.getState()
  try {
    const found = await api.tune(id, { ...askedNow(), targets, keep, rounded }, stop.signal)
    if (useTuning.getState().stop !== stop) return
    useTuning.setState({ found, entries: found.entries, stop: null })
    setDraft(found.entries)
  } catch (error) {
    if (useTuning.getState().stop !== stop) return
    useTuning.setState({ stop: null, problem: said(error) })
  }
}

function said(error: unknown): string | null {
  if (error instanceof ApiError) return error.sentences
  if (error instanceof Offline) return 'the server cannot be reached; ask again when it is back'
  return null // it was stopped
}

export function stopAsking(): void {
  useTuning.getState().stop?.abort()
  useTuning.setState({ stop: null })
}

export function leaveTuning(): void {
  stopAsking()
  setDraft([])
  useTuning.setState({ open: false, ...nothing })
}

/** Whether a number is to be taken; what is tried follows. */
export async function choose(where: string): Promise<void> {
  const { left, found } = useTuning.getState()
  if (!found) return
  const next = new Set(left)
  if (!next.delete(where)) next.add(where)
  useTuning.setState({ left: next })
  const chosen = found.numbers.filter((number) => !next.has(number.where))
  const entries = await entriesOf(found, chosen)
  if (useTuning.getState().left !== next) return
  useTuning.setState({ entries })
  setDraft(entries)
}

async function entriesOf(found: TuneOut, chosen: TuneOut['numbers']): Promise<EntryIn[]> {
  if (chosen.length === found.numbers.length) return found.entries
  if (!chosen.length) return []
  const numbers = chosen.map(({ where, after }) => ({ where, value: after }))
  return (await api.takeNumbers(useGame.getState().id, { ...askedNow(), numbers })).entries
}

/** A number that stays as it is: asked again without it. */
export function keepNumber(where: string): void {
  useTuning.setState(({ keep }) => ({ keep: [...keep, where] }))
  void ask()
}

export function setRounded(rounded: boolean): void {
  useTuning.setState({ rounded })
  void ask()
}

/** Make an edit of what is chosen: one step back takes it back. */
export async function take(): Promise<void> {
  const { entries, found, left } = useTuning.getState()
  if (!found || !entries.length) return
  const many = found.numbers.length - left.size
  setDraft([])
  const failure = await commit(`tuned ${many} number${many === 1 ? '' : 's'}`, entries)
  if (failure) useTuning.setState({ problem: failure.message })
  else leaveTuning()
}

// Every edit is saved by itself: queued, shown at once, sent in order, retried while the server is
// down, taken back where it is refused.
import { toast } from 'sonner'
import { api, ApiError, Offline } from '@/api/client'
import type { ChangeOut, EntryIn } from '@/api/types'
import { withOwnCurves } from './own'
import { withEntries } from './parts'
import { loaded, useGame, withPending, type Failure, type Pending } from './store'

const RETRY = 1000
let sending = false
let heard = { game: '', revision: 0 } // the latest that the server told of

/**
 * Make an edit. Resolves to null once it is saved, or to why it was refused; while the server is
 * away, to null as soon as the edit is kept here.
 */
export function commit(label: string, edits: EntryIn[]): Promise<Failure | null> {
  if (!edits.length) return Promise.resolve(null)
  return new Promise((settle) => {
    const { parts, pending, revision } = useGame.getState()
    const entries = withOwnCurves(parts, edits)
    const token = crypto.randomUUID()
    const change: Pending = { token, base: revision, label, entries, settle, settled: false }
    useGame.setState({ parts: withEntries(parts, entries), pending: [...pending, change] })
    if (useGame.getState().offline) settled(change, null)
    void send()
  })
}

async function send(): Promise<void> {
  if (sending) return
  sending = true
  try {
    for (let next = first(); next && !useGame.getState().conflict; next = first()) await one(next)
  } finally {
    sending = false
  }
}

const first = () => useGame.getState().pending[0]

async function one(change: Pending): Promise<void> {
  const { id } = useGame.getState()
  try {
    const applied = await api.change(id, change.base, change.label, change.entries, change.token)
    useGame.setState({ offline: false })
    if (applied.revision === useGame.getState().revision + 1) acknowledge(change, applied)
    else await catchUp(change, applied)
    settled(change, null)
    await keepUp()
  } catch (error) {
    if (error instanceof Offline) await later()
    else if (error instanceof ApiError && error.status === 409) await clash(change, error)
    else refuse(change, error)
  }
}

function acknowledge(change: Pending, applied: ChangeOut): void {
  const { saved, pending } = useGame.getState()
  const rest = pending.filter((other) => other !== change)
  const now = withEntries(saved, applied.entries as EntryIn[])
  for (const other of rest) other.base = applied.revision
  useGame.setState({
    saved: now,
    parts: withPending(now, rest),
    pending: rest,
    steps: applied.steps,
    revision: applied.revision,
  })
}

/** Others have edited in between: the change counts as on its way until their edits are here too. */
async function catchUp(change: Pending, applied: ChangeOut): Promise<void> {
  await refresh()
  const { saved, pending } = useGame.getState()
  const rest = pending.filter((other) => other !== change)
  // Later edits of what this change wrote were made on top of it.
  const wrote = new Set(applied.entries.map((entry) => `${entry.kind}/${entry.id}`))
  for (const other of rest)
    if (other.entries.every((entry) => wrote.has(`${entry.kind}/${entry.id}`)))
      other.base = applied.revision
  const now = withEntries(saved, applied.entries as EntryIn[]) // also where the server has gone since
  useGame.setState({ saved: now, parts: withPending(now, rest), pending: rest })
}

function refuse(change: Pending, error: unknown): void {
  const { saved, pending } = useGame.getState()
  const rest = pending.filter((other) => other !== change)
  useGame.setState({ parts: withPending(saved, rest), pending: rest, offline: false })
  settled(change, { message: error instanceof ApiError ? error.sentences : String(error) })
}

/** Tell whoever made the edit how it went; after it was called kept, only bad news is news. */
function settled(change: Pending, failure: Failure | null): void {
  if (change.settled && failure) toast.error(`${change.label}: ${failure.message}`)
  change.settled = true
  change.settle(failure)
}

async function later(): Promise<void> {
  useGame.setState({ offline: true })
  for (const change of useGame.getState().pending) settled(change, null)
  await new Promise((resolve) => setTimeout(resolve, RETRY))
}

async function clash(change: Pending, error: ApiError): Promise<void> {
  const theirs = error.problem.theirs as never[]
  useGame.setState({ conflict: { mine: change, theirs, revision: error.problem.revision ?? 0 } })
  await refresh()
}

/** After a clash: send mine on top of theirs, or let it go. */
export function settleClash(keepMine: boolean): void {
  const { conflict, pending, saved } = useGame.getState()
  if (!conflict) return
  if (keepMine) {
    conflict.mine.base = conflict.revision
    useGame.setState({ conflict: null })
  } else {
    const rest = pending.filter((other) => other !== conflict.mine)
    useGame.setState({ conflict: null, pending: rest, parts: withPending(saved, rest) })
    settled(conflict.mine, null)
  }
  void send()
}

/** The server tells of a revision: another's, unless one of ours is on its way and makes it. */
export async function hear(game: string, revision: number): Promise<void> {
  if (heard.game !== game || heard.revision < revision) heard = { game, revision }
  await keepUp()
}

/** Fetch what others did; while an edit is on its way, once that is saved. */
async function keepUp(): Promise<void> {
  const { id, revision, pending } = useGame.getState()
  if (heard.game === id && heard.revision > revision && !pending.length) await refresh()
}

/** Fetch the game anew, keeping edits that are on their way. */
export async function refresh(): Promise<void> {
  const { id } = useGame.getState()
  try {
    const game = await api.openGame(id)
    if (useGame.getState().id === id) loaded(game)
  } catch {
    // The next news, or the next edit, tries again.
  }
}

/** Wait until everything typed so far is saved. */
async function allSaved(): Promise<void> {
  while (useGame.getState().pending.length) await new Promise((resolve) => setTimeout(resolve, 20))
}

export const undo = () => step('undo')
export const redo = () => step('redo')

async function step(which: 'undo' | 'redo'): Promise<void> {
  await allSaved()
  const { id } = useGame.getState()
  try {
    const applied = await api[which](id)
    const { saved } = useGame.getState()
    const moved = applied.entries.length > 0
    const parts = withEntries(saved, applied.entries as EntryIn[])
    useGame.setState({ revision: applied.revision, saved: parts, parts, steps: applied.steps })
    toast(`${which === 'undo' ? 'Undone' : 'Done again'}: ${applied.label}`, { duration: 1600 })
    if (moved) await refresh()
  } catch (error) {
    toast(error instanceof ApiError ? error.problem.detail : 'The server cannot be reached')
  }
}

/** Remove an entity and whatever needs it. */
export async function removePart(kind: string, name: string): Promise<Failure | null> {
  await allSaved()
  const { id, revision } = useGame.getState()
  try {
    await api.remove(id, revision, kind, name)
    await refresh()
    return null
  } catch (error) {
    return { message: error instanceof ApiError ? error.sentences : String(error) }
  }
}

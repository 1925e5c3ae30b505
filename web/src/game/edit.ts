// How a game is edited: an edit is a function of the game, run on the newest there is, or on the game that a
// gesture began with. Nobody makes a whole body by hand, so nothing is put back as it was before another page
// saved something else.
import { enableMapSet, original, produce, setAutoFreeze } from 'immer'
import { toast } from 'sonner'
import type { EntryIn, Settings } from '@/api/types'
import { bodyOf, entriesBetween, entriesOf } from './entries'
import type { BodyOf, Kind, Parts } from './parts'
import { setDraft, useGame, type Failure } from './store'
import { commit } from './sync'
import { same, type Json } from './sync/merge'

enableMapSet()
setAutoFreeze(false) // a game has hundreds of thousands of objects: to freeze them takes longer than to edit

export type Recipe = (game: Parts) => void
/** Some fields that are other; or what makes a body other, in place or by giving another. */
export type Changed<K extends Kind> = Partial<BodyOf<K>> | ((body: BodyOf<K>) => unknown)

/** What makes another body of a whole one: nothing of it is changed in place, so a long list costs little. */
export const whole =
  <Body extends object>(changed: (body: Body) => Body) =>
  (now: Body) =>
    changed((original(now as never) as Body | undefined) ?? now)

/** Edit any things at once. */
export function edit(label: string, recipe: Recipe): Answer {
  const seen = base()
  return sent(label, entriesBetween(seen, produce(seen, recipe)), seen)
}

/** Edit one thing; the label says its name too. */
export function change<K extends Kind>(
  kind: K,
  id: string,
  label: string,
  changed: Changed<K>,
  /** What goes with it: a curve of its own that was chosen. */
  more: EntryIn[] = [],
): Answer {
  const seen = base()
  const body = bodyIn(seen, kind, id)
  if (!body) return new Answer(label, Promise.resolve({ message: 'what it is of is gone' }))
  const entries = [...more, changedEntry(kind, body, changed)]
  return sent(`${label}, ${body.name}`, entries, seen)
}

export function changeSettings(label: string, changed: Partial<Settings>): Answer {
  return edit(label, (game) => void Object.assign(game.settings, changed))
}

/** Within an edit of several things: entries that were made elsewhere. */
export function put(game: Parts, entries: EntryIn[]): void {
  for (const { kind, id, body } of entries)
    (game[kind as Kind] as Map<string, unknown>).set(id, body)
}

/** Edits that the server made of the game as it was `seen`: a proposal, a mend, a table by another rule. */
export function take(label: string, entries: EntryIn[], seen: Parts): Answer {
  return sent(label, entries, seen)
}

/** Make a new thing. */
export function make<K extends Kind>(
  kind: K,
  body: BodyOf<K>,
  label: string,
  more: EntryIn[] = [],
): Answer {
  return sent(label, [...more, entryOf(kind, body)], base())
}

/** Rows of a list as they should be: other, moved, new or gone; with what is made along with them. */
export function changeList<K extends Kind>(
  kind: K,
  label: string,
  changed: (rows: BodyOf<K>[]) => BodyOf<K>[],
  more: EntryIn[] = [],
): Answer {
  const seen = base()
  const rows = [...seen[kind].values()] as BodyOf<K>[]
  return sent(label, [...more, ...entriesOf(kind, rows, changed(rows))], seen)
}

export const entryOf = <K extends Kind>(kind: K, body: BodyOf<K>): EntryIn => ({
  kind,
  id: body.id,
  body: body as unknown as EntryIn['body'],
})

/** Show how an edit would be before it is made; nothing takes it back. */
export function sketch(recipe: Recipe | null): void {
  if (!recipe) return setDraft([])
  const seen = base()
  setDraft(entriesBetween(seen, produce(seen, recipe)), seen)
}

export function sketchOf<K extends Kind>(kind: K, id: string, changed: Changed<K> | null): void {
  const seen = base()
  const body = changed && bodyIn(seen, kind, id)
  setDraft(body ? [changedEntry(kind, body, changed)] : [], seen)
}

const bodyIn = <K extends Kind>(parts: Parts, kind: K, id: string) =>
  parts[kind].get(id) as BodyOf<K> | undefined

function changedEntry<K extends Kind>(kind: K, body: BodyOf<K>, changed: Changed<K>): EntryIn {
  const next =
    typeof changed === 'function' ? produce(body, changed as never) : { ...body, ...changed }
  return entryOf(kind, next as BodyOf<K>)
}

function sent(label: string, entries: EntryIn[], seen: Parts): Answer {
  const some = entries.filter(
    ({ kind, id, body, before }) => before || !same(body as Json, bodyOf(seen, kind, id)),
  )
  return new Answer(label, commit(label, some, seen))
}

// --- what is held by hand ------------------------------------------------------------------------------

let since: Parts | null = null

/** The game that an edit is a function of. */
const base = () => since ?? useGame.getState().parts

/**
 * Something that goes on while others may edit: a drag, an open field, a question, a form. What is edited
 * within it is an edit of the game as it was when it began: what others changed meanwhile stays, and where
 * both changed the same it is asked.
 */
export class Gesture {
  readonly seen = useGame.getState().parts

  within<T>(act: () => T): T {
    const before = since
    since = this.seen
    try {
      return act()
    } finally {
      since = before
    }
  }
}

// --- how an edit went ----------------------------------------------------------------------------------

/** How an edit went: null is well. A refusal that nobody takes is told. */
export class Answer implements PromiseLike<Failure | null> {
  private taken = false

  constructor(
    label: string,
    private readonly coming: Promise<Failure | null>,
  ) {
    void coming.then((failure) => {
      if (failure && !this.taken) toast.error(`${label}: ${failure.message}`, { duration: 8000 })
    })
  }

  then<A = Failure | null, B = never>(
    done?: ((failure: Failure | null) => A | PromiseLike<A>) | null,
    failed?: ((reason: unknown) => B | PromiseLike<B>) | null,
  ): Promise<A | B> {
    this.taken = true
    return this.coming.then(done, failed)
  }

  /** Whether it is saved; why it is not is told by itself. */
  isDone(): Promise<boolean> {
    return this.coming.then((failure) => failure === null)
  }
}

// Finding numbers: what was asked, what was found, and what of it is to be taken. The game stays as it is
// until then; what is found is shown as edits that are only tried.
import { fresh } from '@/api/fresh'
import { create } from 'zustand'
import { api, ApiError, Offline, type TuneAsked } from '@/api/client'
import type { EntryIn, MayMove, TuneIn, TuneOut } from '@/api/types'
import { askedNow } from '@/game/asked'
import { take as taken } from '@/game/edit'
import type { Parts } from '@/game/parts'
import { setDraft, useGame } from '@/game/store'

interface Tuning {
  open: boolean
  /** Which targets must hold; null for all that are not put aside. */
  targets: string[] | null
  /** Numbers that stay, by name. */
  keep: string[]
  rounded: boolean
  /** In which way: the smallest change, the fewest numbers, weights or curves alone. */
  way: Way
  /** Which kinds of numbers; none chosen are the usual ones. */
  kinds: Kind[]
  /** By which factor one may change at most; null for any. */
  most: number | null
  holdLongRun: boolean
  /** How far it is: so many of its targets are met so far. */
  progress: { token: string; met: number; of: number } | null
  /** What may move, told before anything is found. */
  free: MayMove | null
  /** Other ways to the same, each with its price; those that lead there. */
  others: Other[]
  found: TuneOut | null
  /** What the game held when it was asked, as a word and in full. */
  content: string
  seen: Parts | null
  /** Numbers that are not to be taken. */
  left: ReadonlySet<string>
  entries: EntryIn[]
  problem: string | null
  /** Stops what is being worked out; null where nothing is. */
  stop: AbortController | null
}

export type Way = NonNullable<TuneIn['way']>
export type Kind = NonNullable<TuneIn['kinds']>[number]

export interface Other {
  way: Way
  found: TuneOut
}

const nothing = {
  found: null,
  others: [],
  left: new Set<string>(),
  entries: [],
  problem: null,
  content: '',
  seen: null,
}
const usual = { way: 'smallest', kinds: [], most: null, holdLongRun: false, free: null } as const

export const useTuning = create<Tuning>()(() => ({
  open: false,
  targets: null,
  keep: [],
  rounded: true,
  stop: null,
  progress: null,
  ...usual,
  kinds: [],
  ...nothing,
}))

/** Open the strip, and ask at once. */
export function findNumbers(targets: string[] | null): void {
  useTuning.getState().stop?.abort()
  useTuning.setState({ open: true, targets, keep: [], ...usual, kinds: [], ...nothing })
  void ask()
}

/** Whether what is proposed is a point of a frontier: of no targets, with nothing to find again. */
export const isOfPoint = ({ targets }: Tuning) => targets?.length === 0

/** Numbers that were found elsewhere, a point of a frontier, as a proposal. */
export async function proposeNumbers(numbers: TuneOut['numbers']): Promise<void> {
  useTuning.getState().stop?.abort()
  const { content, revision } = useGame.getState()
  const none = {
    targets: [],
    moved: [],
    conflict: [],
    untold: {},
    played: [],
    long_run: [],
    entries: [],
  }
  const found: TuneOut = {
    ...none,
    status: 'met',
    revision,
    numbers,
    free: numbers.length,
    rounding: 0,
    size: 0,
  }
  const seen = useGame.getState().parts
  useTuning.setState({ open: true, stop: null, targets: [], ...nothing, content, seen, found })
  const made = await madeOf(found, numbers, true)
  if (useTuning.getState().found === found) tryOut(made)
}

export async function ask(): Promise<void> {
  useTuning.getState().stop?.abort()
  const { id, content, parts: seen } = useGame.getState()
  const stop = new AbortController()
  setDraft([])
  useTuning.setState({ stop, ...nothing, content })
  const asked = { ...askedNow(), ...tuneAsked() }
  const token = fresh()
  useTuning.setState({ progress: { token, met: 0, of: 0 } })
  void tellWhatMayMove(id, asked, stop.signal)
  try {
    const found = await api.tune(id, { ...asked, token }, stop.signal)
    if (useTuning.getState().stop !== stop) return
    useTuning.setState({ found, stop: null })
    tryOut({ entries: found.entries, seen })
    void lookForOthers(id, asked, found)
  } catch (error) {
    if (useTuning.getState().stop !== stop) return
    useTuning.setState({ stop: null, problem: said(error) })
  }
}

/** News of how far a proposal is, this page's or another's. */
export function hearProgress(news: { token: string; met: number; of: number }): void {
  if (useTuning.getState().progress?.token === news.token) useTuning.setState({ progress: news })
}

function tuneAsked(): TuneAsked {
  const { targets, keep, rounded, way, kinds, most, holdLongRun } = useTuning.getState()
  return { targets, keep, rounded, way, kinds, most, hold_long_run: holdLongRun }
}

async function tellWhatMayMove(
  id: string,
  asked: Parameters<typeof api.mayMove>[1],
  signal: AbortSignal,
): Promise<void> {
  try {
    useTuning.setState({ free: await api.mayMove(id, asked, signal) })
  } catch {
    useTuning.setState({ free: null }) // the answer itself says what is wrong
  }
}

const OTHERS: Way[] = ['fewest', 'weights', 'curves']

/** The same in other ways, one after another, for as long as what was found is looked at. */
async function lookForOthers(
  id: string,
  asked: Parameters<typeof api.tune>[1],
  found: TuneOut,
): Promise<void> {
  if (found.status !== 'met' || asked.way !== 'smallest' || asked.kinds?.length) return
  for (const way of OTHERS) {
    try {
      const other = await api.tune(id, { ...asked, way }, looking(found))
      if (useTuning.getState().found !== found) return
      const { others } = useTuning.getState()
      const known = [found, ...others.map((one) => one.found)]
      const isSame = known.some((one) => Math.abs(one.size - other.size) < 1e-6)
      if (other.status === 'met' && !isSame)
        useTuning.setState(({ others }) => ({ others: [...others, { way, found: other }] }))
    } catch {
      // there is nothing of this kind to move, or it is looked at no more
    }
    if (useTuning.getState().found !== found) return
  }
}

/** Ends when something else is looked at. */
function looking(found: TuneOut): AbortSignal {
  const stop = new AbortController()
  const forget = useTuning.subscribe((state) => {
    if (state.found === found) return
    stop.abort()
    forget()
  })
  return stop.signal
}

/** Look at another way that was found; the first stays among the others. */
export function lookAtOther(other: Other): void {
  const { found, others, way } = useTuning.getState()
  if (!found) return
  const rest = others.filter((one) => one !== other)
  useTuning.setState({
    way: other.way,
    found: other.found,
    others: [{ way, found }, ...rest],
    left: new Set(),
  })
  tryOut({ entries: other.found.entries, seen: useTuning.getState().seen })
}

export function setWay(changed: Partial<Pick<Tuning, 'way' | 'kinds' | 'most' | 'holdLongRun'>>) {
  useTuning.setState(changed)
  void ask()
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
  const made = await madeOf(found, chosen)
  if (useTuning.getState().left === next) tryOut(made)
}

/** Edits, and the game that they were made of. */
type Made = Pick<Tuning, 'entries' | 'seen'>

function tryOut(made: Made): void {
  useTuning.setState(made)
  setDraft(made.entries, made.seen ?? undefined)
}

async function madeOf(found: TuneOut, chosen: TuneOut['numbers'], isNew = false): Promise<Made> {
  const { id, parts: seen } = useGame.getState()
  if (chosen.length === found.numbers.length && !isNew)
    return { entries: found.entries, seen: useTuning.getState().seen }
  if (!chosen.length) return { entries: [], seen }
  const numbers = chosen.map(({ where, after }) => ({ where, value: after }))
  return { entries: (await api.takeNumbers(id, { ...askedNow(), numbers })).entries, seen }
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
  const { entries, seen, found, left } = useTuning.getState()
  if (!found || !seen || !entries.length) return
  const many = found.numbers.length - left.size
  setDraft([])
  const failure = await taken(`tuned ${many} number${many === 1 ? '' : 's'}`, entries, seen)
  if (failure) useTuning.setState({ problem: failure.message })
  else leaveTuning()
}

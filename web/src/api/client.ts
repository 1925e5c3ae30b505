// One door to the server. Refusals come back as ApiError; a server that is down as Offline.
import { fresh } from './fresh'
import type {
  Asked,
  BagOut,
  CellsOut,
  ChangeIn,
  ChangeOut,
  Collection,
  CompareOut,
  CompareTrials,
  Compared,
  DepthSheet,
  EntryIn,
  Estimate,
  FindingsOut,
  Focus,
  Frontier,
  GameBody,
  GameSummary,
  HeldLog,
  HistoryEntry,
  ItemView,
  KeptOut,
  KitOut,
  Lever,
  LogHeld,
  MayMove,
  Meets,
  OddsOut,
  Overview,
  PlaceOut,
  PriceOut,
  ProblemDetails,
  ProfileOut,
  RemovalIn,
  Replay,
  RollOut,
  RouteOdds,
  SheetsRead,
  SpreadOut,
  StallOut,
  StepIn,
  Table,
  TargetsOut,
  TierView,
  TrialIn,
  TrialOut,
  TrialSummary,
  TuneIn,
  TuneOut,
  UseOut,
  View,
} from './types'

export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly problem: ProblemDetails,
  ) {
    super(problem.detail)
  }

  /** The places' messages, or the whole detail where there are none. */
  get sentences(): string {
    const places = this.problem.places ?? []
    return places.length ? places.map((place) => place.message).join('; ') : this.problem.detail
  }
}

export class Offline extends Error {
  constructor() {
    super('the server cannot be reached')
  }
}

const PNG = 'image/png'

async function ask<T>(
  method: string,
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const isFile = body instanceof Blob
  const isPng = isFile && body.type === PNG
  let response: Response
  try {
    response = await fetch(`/api${path}`, {
      method,
      signal,
      headers: body === undefined ? {} : { 'Content-Type': isPng ? PNG : 'application/json' },
      body: body === undefined ? undefined : isFile ? body : JSON.stringify(body),
    })
  } catch (error) {
    if (signal?.aborted) throw error
    throw new Offline()
  }
  if (response.status === 503) throw new Offline()
  if (!response.ok) throw new ApiError(response.status, await problemOf(response))
  return (
    response.status === 204 || response.status === 202 ? undefined : await response.json()
  ) as T
}

/** Make something once: where no answer comes it is sent again, under the same id, and so not made twice. */
async function once<T>(send: (token: string) => Promise<T>): Promise<T> {
  const token = fresh()
  for (const wait of [500, 1_000, 2_000]) {
    try {
      return await send(token)
    } catch (error) {
      if (!(error instanceof Offline)) throw error
      await new Promise((done) => setTimeout(done, wait))
    }
  }
  return send(token)
}

async function problemOf(response: Response): Promise<ProblemDetails> {
  const fallback = { type: '', title: '', status: response.status, detail: response.statusText }
  try {
    return { ...fallback, ...((await response.json()) as object) } as ProblemDetails
  } catch {
    return fallback as ProblemDetails
  }
}

export interface Subject {
  view: View
  depth: number
  flags: string[]
}

export type Looked = Asked & Subject

/** What is asked of a proposal. */
export type TuneAsked = Omit<Partial<TuneIn>, 'revision' | 'draft'>

/** Where an item, or a tier, is found. */
export interface WhereAsked extends Asked {
  flags: string[]
  swings: boolean
}

/** A source where one looks. */
export interface AtSource {
  source: string
  depth: number
  flags: string[]
}

/** A route, or so many events of a source. */
export type KeptAsked = { route: string } | (AtSource & { events: number })

export interface PlaceAsked {
  place: string
  depth: number
  flags: string[]
  every: number | null
  seed: number | null
}

export interface StallAsked {
  stall: string
  at: string
  count: number
  look_every: number
  looks: number
}

export const api = {
  games: () => ask<GameSummary[]>('GET', '/games'),
  strips: () =>
    ask<Record<string, { name: string; colour: string; items: number }[]>>('GET', '/games/strips'),
  demoAgain: () => once((token) => ask<GameSummary>('POST', `/games/demo?token=${token}`)),
  makeGame: (name: string) => once((token) => ask<GameSummary>('POST', '/games', { name, token })),
  importGame: (file: Blob) =>
    once((token) => ask<GameSummary>('POST', `/games/import?token=${token}`, file)),
  openGame: (id: string, page: string, revision?: number) =>
    ask<GameBody>(
      'GET',
      `/games/${id}?page=${page}${revision === undefined ? '' : `&revision=${revision}`}`,
    ),
  goBack: (id: string, asked: { revision: number; page: string; who: string }) =>
    ask<ChangeOut>('POST', `/games/${id}/back`, asked),
  mark: (id: string, revision: number, name: string) =>
    ask<unknown>('PUT', `/games/${id}/marks/${revision}`, { name }),
  unmark: (id: string, revision: number) =>
    ask<undefined>('DELETE', `/games/${id}/marks/${revision}`),
  compareRevisions: (id: string, first: number, last: number) =>
    ask<Compared>('GET', `/games/${id}/compare?first=${first}&last=${last}`),
  deleteGame: (id: string) => ask<undefined>('DELETE', `/games/${id}`),
  restoreGame: (id: string) => ask<GameSummary>('POST', `/games/${id}/restore`),
  duplicateGame: (id: string) =>
    once((token) => ask<GameSummary>('POST', `/games/${id}/duplicate?token=${token}`)),
  change: (id: string, change: ChangeIn) => ask<ChangeOut>('POST', `/games/${id}/changes`, change),
  remove: (id: string, removal: RemovalIn) =>
    ask<ChangeOut>('POST', `/games/${id}/removals`, removal),
  uses: (id: string, kind: string, name: string) =>
    ask<UseOut[]>('GET', `/games/${id}/uses/${kind}/${name}`),
  undo: (id: string, step: StepIn) => ask<ChangeOut>('POST', `/games/${id}/undo`, step),
  redo: (id: string, step: StepIn) => ask<ChangeOut>('POST', `/games/${id}/redo`, step),
  history: (id: string, before?: number, limit = 200) =>
    ask<HistoryEntry[]>(
      'GET',
      `/games/${id}/history?limit=${limit}${before === undefined ? '' : `&before=${before}`}`,
    ),
  odds: (id: string, looked: Looked & { focus?: Focus | null }, signal?: AbortSignal) =>
    ask<OddsOut>('POST', `/games/${id}/odds`, looked, signal),
  spread: (id: string, looked: Looked & { events: number }, signal?: AbortSignal) =>
    ask<SpreadOut>('POST', `/games/${id}/spread`, looked, signal),
  profile: (id: string, looked: Looked, signal?: AbortSignal) =>
    ask<ProfileOut>('POST', `/games/${id}/profile`, looked, signal),
  meetsProfile: (id: string, asked: Asked & { flags: string[] }) =>
    ask<ProfileOut>('POST', `/games/${id}/meets/profile`, asked),
  answer: (
    id: string,
    asked: Looked & { table: string; line: string; answer: string; wanted: number },
  ) => ask<{ body: Table }>('POST', `/games/${id}/answers`, asked),
  roll: (
    id: string,
    asked: Looked & {
      seed: number
      player: number
      first: number
      count: number
      kernel?: number | null
    },
  ) => ask<RollOut>('POST', `/games/${id}/rolls`, asked),
  depths: (id: string, looked: Looked & { swings: boolean }, signal?: AbortSignal) =>
    ask<DepthSheet>('POST', `/games/${id}/depths`, looked, signal),
  itemView: (id: string, item: string, asked: WhereAsked, signal?: AbortSignal) =>
    ask<ItemView>('POST', `/games/${id}/items/${item}`, asked, signal),
  tierView: (id: string, tier: string, asked: WhereAsked, signal?: AbortSignal) =>
    ask<TierView>('POST', `/games/${id}/tiers/${tier}`, asked, signal),
  overview: (id: string, asked: Asked & { flags: string[] }, signal?: AbortSignal) =>
    ask<Overview>('POST', `/games/${id}/overview`, asked, signal),
  collection: (id: string, asked: Asked & { route: string }, signal?: AbortSignal) =>
    ask<Collection>('POST', `/games/${id}/collection`, asked, signal),
  meets: (
    id: string,
    asked: Asked & { depth: number; points: number; flags: string[] },
    signal?: AbortSignal,
  ) => ask<Meets>('POST', `/games/${id}/meets`, asked, signal),
  compare: (
    id: string,
    asked: Asked & { table: string; depth: number; flags: string[] },
    signal?: AbortSignal,
  ) => ask<CompareOut>('POST', `/games/${id}/compare`, asked, signal),
  targets: (id: string, asked: Asked & { ids: string[] | null }) =>
    ask<TargetsOut>('POST', `/games/${id}/targets`, asked),
  tune: (id: string, asked: Asked & TuneAsked, signal?: AbortSignal) =>
    ask<TuneOut>('POST', `/games/${id}/tune`, asked, signal),
  mayMove: (id: string, asked: Asked & TuneAsked, signal?: AbortSignal) =>
    ask<MayMove>('POST', `/games/${id}/tune/free`, asked, signal),
  frontier: (
    id: string,
    asked: Asked & { view: View; depth: number; flags: string[]; most: number },
    signal?: AbortSignal,
  ) => ask<Frontier>('POST', `/games/${id}/tune/frontier`, asked, signal),
  levers: (id: string, asked: Asked & { target: string; depth: number }, signal?: AbortSignal) =>
    ask<{ levers: Lever[] }>('POST', `/games/${id}/tune/levers`, asked, signal),
  takeNumbers: (id: string, asked: Asked & { numbers: { where: string; value: number }[] }) =>
    ask<{ entries: EntryIn[] }>('POST', `/games/${id}/tune/take`, asked),
  findings: (id: string) => ask<FindingsOut>('GET', `/games/${id}/findings`),
  trials: (id: string) => ask<TrialSummary[]>('GET', `/games/${id}/trials`),
  trial: (id: string, trial: string) => ask<TrialOut>('GET', `/games/${id}/trials/${trial}`),
  runTrial: (id: string, asked: TrialIn) =>
    once((token) => ask<TrialSummary>('POST', `/games/${id}/trials`, { ...asked, token })),
  estimateTrial: (id: string, asked: TrialIn) =>
    ask<Estimate>('POST', `/games/${id}/trials/estimate`, asked),
  describeTrial: (
    id: string,
    trial: string,
    change: { name?: string; note?: string; pinned?: boolean; beside?: string },
  ) => ask<TrialSummary>('PATCH', `/games/${id}/trials/${trial}`, change),
  compareTrials: (id: string, trial: string, other: string) =>
    ask<CompareTrials>('POST', `/games/${id}/trials/${trial}/compare`, { other }),
  replay: (id: string, trial: string, player: number, first: number, count: number) =>
    ask<Replay>(
      'GET',
      `/games/${id}/trials/${trial}/players/${player}?first=${first}&count=${count}`,
    ),
  nearPlayer: (id: string, trial: string, value: number) =>
    ask<{ player: number; value: number }>(
      'GET',
      `/games/${id}/trials/${trial}/near?value=${value}`,
    ),
  restoreTrial: (id: string, trial: string) =>
    ask<TrialSummary>('POST', `/games/${id}/trials/${trial}/restore`),
  routeOdds: (id: string, asked: Asked & { route: string }, signal?: AbortSignal) =>
    ask<RouteOdds>('POST', `/games/${id}/route`, asked, signal),
  kept: (id: string, asked: Asked & KeptAsked, signal?: AbortSignal) =>
    ask<KeptOut>('POST', `/games/${id}/kept`, asked, signal),
  kit: (
    id: string,
    asked: Asked & { source: string; events: number; flags: string[] },
    signal?: AbortSignal,
  ) => ask<KitOut>('POST', `/games/${id}/kit`, asked, signal),
  cells: (id: string, asked: Asked & AtSource & { opening: number }, signal?: AbortSignal) =>
    ask<CellsOut>('POST', `/games/${id}/cells`, asked, signal),
  bag: (id: string, asked: Asked & { route: string; player: number }, signal?: AbortSignal) =>
    ask<BagOut>('POST', `/games/${id}/bag`, asked, signal),
  price: (id: string, asked: Asked & AtSource, signal?: AbortSignal) =>
    ask<PriceOut>('POST', `/games/${id}/price`, asked, signal),
  place: (id: string, asked: Asked & PlaceAsked, signal?: AbortSignal) =>
    ask<PlaceOut>('POST', `/games/${id}/place`, asked, signal),
  stall: (id: string, asked: Asked & StallAsked, signal?: AbortSignal) =>
    ask<StallOut>('POST', `/games/${id}/stall`, asked, signal),
  cancelTrial: (id: string, trial: string) =>
    ask<undefined>('POST', `/games/${id}/trials/${trial}/cancel`),
  readSheets: (
    id: string,
    name: string,
    content: Blob,
    columns: Record<string, string>,
    signal?: AbortSignal,
  ) =>
    ask<SheetsRead>(
      'POST',
      `/games/${id}/sheets?${new URLSearchParams({ name, columns: JSON.stringify(columns) }).toString()}`,
      content,
      signal,
    ),
  logs: (id: string) => ask<HeldLog[]>('GET', `/games/${id}/logs`),
  heldLog: (id: string, log: string) => ask<LogHeld>('GET', `/games/${id}/logs/${log}`),
  forgetLog: (id: string, log: string) => ask<undefined>('DELETE', `/games/${id}/logs/${log}`),
  holdLog: (id: string, name: string, token: string, content: Blob, signal?: AbortSignal) =>
    ask<LogHeld>(
      'POST',
      `/games/${id}/log?${new URLSearchParams({ name, token }).toString()}`,
      content,
      signal,
    ),
  here: (
    id: string,
    asked: { page: string; who: string; sheet: string; cell: string; at: string; leaves: boolean },
  ) => ask<undefined>('POST', `/games/${id}/presence`, asked),
  pictures: (id: string) => ask<Record<string, string>>('GET', `/games/${id}/pictures`),
  pictureAddress: (id: string, place: string, digest: string) =>
    `/api/games/${id}/pictures/${place}?is=${digest}`,
  layPicture: (id: string, place: string, file: Blob) =>
    ask<Record<string, string>>('PUT', `/games/${id}/pictures/${place}`, file),
  takePicture: (id: string, place: string) =>
    ask<undefined>('DELETE', `/games/${id}/pictures/${place}`),
  deleteTrial: (id: string, trial: string) =>
    ask<undefined>('DELETE', `/games/${id}/trials/${trial}`),
}

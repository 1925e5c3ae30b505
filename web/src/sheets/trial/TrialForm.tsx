// Setting a trial up: a sentence, with what it would come to.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { api } from '@/api/client'
import type { TrialIn, TrialSpec } from '@/api/types'
import { lastVisited, type Doable } from '@/game/visited'
import { askedNow } from '@/game/asked'
import { show, useGame, useGamePart } from '@/game/store'
import { eventWords } from '@/game/words'
import { entered, figures, whole } from '@/text/format'
import { readNumber, typedNumber } from '@/text/numbers'
import { Problem } from '@/ui/SmallForm'

interface Draft {
  of: string
  name: string
  players: string
  events: string
  seed: string
  within: string
}

/** A new one, of what was last in view; or, beside a report, one like it. */
export function TrialForm({ like }: { like?: TrialSpec }) {
  const { id, parts, revision, ...here } = useGamePart('id', 'parts', 'depth', 'flags', 'revision')
  const depth = like?.depth ?? here.depth
  const flags = like ? like.flags : here.flags
  const client = useQueryClient()
  const [draft, setDraft] = useState<Draft>(() => (like ? draftOf(like) : newDraft()))
  const [problem, setProblem] = useState('')
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part })
  const [kind, target = ''] = draft.of.split('/') as [Doable['kind'], string]
  const words = eventWords(kind === 'source' ? parts.source.get(target) : undefined)
  const player = parts.settings.words?.player ?? 'player'
  const asked = askedOf(draft, depth, flags)
  const { data: estimate } = useQuery({
    queryKey: ['estimate', id, revision, asked],
    queryFn: () => api.estimateTrial(id, asked as TrialIn),
    enabled: typeof asked !== 'string',
    retry: false,
  })
  const isLong = estimate !== undefined && (estimate.seconds > 120 || estimate.bytes > 2e8)

  const submit = async (event: FormEvent) => {
    event.preventDefault()
    if (typeof asked === 'string') return setProblem(asked)
    try {
      const now = askedNow()
      const trial = await api.runTrial(id, {
        ...asked,
        ...now,
        name: draft.name,
        knowingly: isLong,
      })
      await client.invalidateQueries({ queryKey: ['trials', id] })
      show({ kind: 'trial', id: trial.id })
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
  }
  const field = (key: keyof Draft, label: string, width: string) => (
    <input
      className={`field num text-center ${like ? 'h-7 text-body' : 'h-8 text-lead'} ${width}`}
      aria-label={label}
      value={draft[key]}
      onChange={(event) => change({ [key]: event.target.value })}
    />
  )
  return (
    <form
      aria-label={like ? 'another like it' : 'a new trial'}
      className={like ? 'space-y-2 p-4' : 'max-w-[640px] space-y-4 px-5 pt-3'}
      onSubmit={(event) => void submit(event)}
    >
      {like ? (
        <p className="head">Another like it</p>
      ) : (
        <h1 className="name text-title leading-10">A new trial</h1>
      )}
      {/* A sentence: what stands in it flows as its words do. */}
      <p className={like ? 'text-body leading-[34px]' : 'text-lead leading-[42px]'}>
        {field('players', `how many ${player}s`, 'w-24')} {player}s, each{' '}
        {kind === 'route' ? 'going along' : 'doing'}{' '}
        {kind !== 'route' && (
          <>
            {field('events', 'events each', 'w-20')} {words.many} of{' '}
          </>
        )}
        <OfChoice value={draft.of} onChange={(of) => change({ of })} />
        {kind !== 'route' && (
          <>
            {' '}
            at {parts.settings.words?.depth ?? 'depth'} <b className="num">{depth}</b>
          </>
        )}
        , with seed {field('seed', 'seed', 'w-24')}; stopping when the mean of{' '}
        {parts.settings.currency} is known to ±{' '}
        {field('within', 'known to how many percent', 'w-16')} %, or, left empty, when all are done.
      </p>
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <input
          className={`field h-8 ${like ? 'w-40' : 'w-64'}`}
          aria-label="name of the trial"
          placeholder="Name, if you like"
          value={draft.name}
          onChange={(event) => change({ name: event.target.value })}
        />
        <button type="submit" className="gold-button">
          {isLong ? 'Run it all the same' : 'Run the trial'}
        </button>
        {estimate && (
          <span className={`label num ${isLong ? 'text-waiting' : ''}`}>
            about{' '}
            {estimate.seconds > 90
              ? `${whole(estimate.seconds / 60)} min`
              : `${figures(estimate.seconds, 2)} s`}
            , {figures(estimate.bytes / 1e6, 2)} MB kept
          </span>
        )}
      </p>
      <Problem>{problem}</Problem>
      {!like && (
        <p className="label">
          The same seed gives the same players again, to the last digit. It goes on if this page is
          left, and also if the server is.
        </p>
      )}
    </form>
  )
}

function OfChoice({ value, onChange }: { value: string; onChange: (of: string) => void }) {
  const parts = useGame((state) => state.parts)
  const options = (kind: 'route' | 'source' | 'table') =>
    [...parts[kind].values()].map((one) => (
      <option key={one.id} value={`${kind}/${one.id}`}>
        {one.name}
      </option>
    ))
  return (
    <select
      className="field name h-8 max-w-[240px] text-lead"
      aria-label="what is simulated"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      <optgroup label="routes">{options('route')}</optgroup>
      <optgroup label="sources">{options('source')}</optgroup>
      <optgroup label="tables">{options('table')}</optgroup>
    </select>
  )
}

function newDraft(): Draft {
  const seed = String(Math.floor(Math.random() * 100_000))
  return { of: startOf(), name: '', players: '10000', events: '500', seed, within: '' }
}

function draftOf({ route, view, players, events, seed, until }: TrialSpec): Draft {
  return {
    of: route ? `route/${route}` : `${view?.kind}/${view?.id}`,
    name: '',
    players: String(players),
    events: String(events ?? ''),
    seed: String(seed),
    within: until ? entered(100 * until.within) : '',
  }
}

function startOf(): string {
  const { parts } = useGame.getState()
  const last = lastVisited()
  if (last && parts[last.kind].has(last.id)) return `${last.kind}/${last.id}`
  return `source/${parts.source.keys().next().value ?? ''}`
}

/** What the fields ask for, or what is wrong with them. */
function askedOf(draft: Draft, depth: number, flags: string[]): TrialIn | string {
  const [players, events, seed] = [draft.players, draft.events, draft.seed].map(typedNumber)
  const [kind, id = ''] = draft.of.split('/')
  if (!players || seed === null || seed === undefined || (kind !== 'route' && !events))
    return 'players, events and seed are whole numbers'
  const within = draft.within.trim() ? readNumber(draft.within.replace('%', '')) : null
  if (typeof within === 'string') return within
  const common = { players, seed, ...(within !== null && { until: { within: within / 100 } }) }
  if (kind === 'route') return { ...common, route: id }
  const view = { kind: kind === 'table' ? ('table' as const) : ('source' as const), id }
  return { ...common, view, depth, flags, events: events ?? 1 }
}

// At the foot of the bench: what must hold, which numbers make it hold, what else they move. The sheets
// above show the new numbers beside the old ones meanwhile.
import { useEffect } from 'react'
import type { Target, TuneOut } from '@/api/types'
import { setDraft, show, useGame, useGamePart } from '@/game/store'
import { isOrder, told, wantedWords } from '@/game/targets'
import { Choice } from '@/ui/Choice'
import { entered, figures } from '@/ui/format'
import { TargetMark } from '@/ui/TargetMark'
import { numberName, sizeWords } from './names'
import {
  ask,
  choose,
  findNumbers,
  keepNumber,
  leaveTuning,
  lookAtOther,
  setRounded,
  setWay,
  stopAsking,
  take,
  useTuning,
  type Kind,
  type Way,
} from './tuning'

export function TuningStrip() {
  const { open, found, entries, content } = useTuning()
  const { sheet, content: now } = useGamePart('sheet', 'content')
  // Another sheet forgets what is tried; here it goes on being tried.
  useEffect(() => {
    if (open && entries.length) setDraft(entries)
  }, [open, entries, sheet])
  if (!open) return null
  const isOld = found !== null && content !== now
  return (
    <section
      aria-label="find numbers"
      className="grid h-[232px] grid-cols-[236px_minmax(0,1fr)_minmax(0,220px)] border-t-2 border-gold bg-raised text-small"
    >
      <Asked isOld={isOld} />
      <Numbers isOld={isOld} />
      <Consequences />
    </section>
  )
}

function Asked({ isOld }: { isOld: boolean }) {
  const { found, stop, problem, rounded, targets } = useTuning()
  // A point of a frontier is of no targets, and there is nothing to find again.
  const isPoint = targets?.length === 0
  const { parts } = useGamePart('parts')
  return (
    <div className="flex min-h-0 flex-col border-r border-hair">
      <p className="head flex items-baseline justify-between px-3 pb-1 pt-2">
        <span>Must hold</span>
        <button type="button" className="label hover:text-ink" onClick={leaveTuning}>
          leave
        </button>
      </p>
      <div className="min-h-0 flex-1 overflow-auto px-3" role="status">
        {stop && <Working />}
        {problem && <p className="text-bad">{problem}</p>}
        {isOld && <p className="text-bad">The game has changed since. Find again.</p>}
        {found && !isOld && <p className="pb-1">{verdict(found, isPoint)}</p>}
        {found?.targets.map((one) => (
          <Held key={one.id} one={one} target={parts.target.get(one.id)} />
        ))}
        {Object.keys(found?.untold ?? {}).map((id) => (
          <p key={id} className="text-muted">
            left out: <span className="name">{parts.target.get(id)?.name}</span>,{' '}
            {found?.untold[id]}
          </p>
        ))}
      </div>
      <div className="flex items-center gap-3 border-t border-hair px-3 py-1.5">
        {stop && (
          <button type="button" className="plain-button" onClick={stopAsking}>
            Stop
          </button>
        )}
        {!stop && !isPoint && (
          <button type="button" className="plain-button" onClick={() => void ask()}>
            Find again
          </button>
        )}
        {!isPoint && <Tick label="few digits" checked={rounded} onChange={setRounded} />}
      </div>
    </div>
  )
}

function Tick({
  label,
  checked,
  onChange,
}: {
  label: string
  checked: boolean
  onChange: (checked: boolean) => void
}) {
  return (
    <label className="flex items-center gap-1 whitespace-nowrap text-muted">
      <input
        type="checkbox"
        className="accent-gold"
        checked={checked}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  )
}

function Working() {
  const { progress, way } = useTuning()
  return (
    <div className="pb-1">
      <p className="text-waiting">Looking for {WAYS[way]} …</p>
      {progress && progress.of > 0 && (
        <p className="flex items-center gap-2 text-muted">
          <progress className="h-1.5 flex-1 accent-gold" value={progress.met} max={progress.of} />
          <span className="num whitespace-nowrap">
            {progress.met} of {progress.of} met so far
          </span>
        </p>
      )}
    </div>
  )
}

function verdict(found: TuneOut, isPoint: boolean): string {
  if (isPoint) return 'These numbers give the mean and the swing that were chosen.'
  const many = found.numbers.length
  if (found.status === 'nothing-to-do') return 'All of it holds as it is.'
  const numbers = `${many} of ${found.free} number${found.free === 1 ? '' : 's'} that may move`
  return found.status === 'met' ? `Met, with ${numbers}.` : 'Not all can be met. This is nearest.'
}

function Held({ one, target }: { one: TuneOut['targets'][number]; target: Target | undefined }) {
  const row = target ? telling(one, target) : -1
  return (
    <button
      type="button"
      className="grid w-full grid-cols-[15px_1fr_auto] items-baseline gap-x-1 py-px text-left hover:bg-gold-wash"
      title={target ? wantedWords(target) : ''}
      onClick={() => show({ kind: 'target', id: one.id })}
    >
      <span className="self-center">
        <TargetMark stand={one.met ? 'met' : 'missed'} />
      </span>
      <span className="name truncate">{one.name}</span>
      {target && row >= 0 && (
        <span className="num text-muted">
          {told(target, one.before[row])}
          {one.before[row] !== one.after[row] && (
            <>
              {' → '}
              <b className="text-ink">{told(target, one.after[row])}</b>
            </>
          )}
        </span>
      )}
    </button>
  )
}

/** The row that was furthest off; of a target that was met the one that moves most. */
function telling(one: TuneOut['targets'][number], target: Target): number {
  const order = isOrder(target)
  const isOpen = {
    low: order || target.side === 'at-most',
    high: order || target.side === 'at-least',
  }
  const low = isOpen.low ? -Infinity : target.wanted - target.tolerance
  const high = isOpen.high ? Infinity : target.wanted + target.tolerance
  const off = one.before.map((x) => (x === null ? Infinity : Math.max(low - x, x - high, 0)))
  if (Math.max(...off, 0) > 0) return off.indexOf(Math.max(...off))
  const moves = one.before.map((before, row) => {
    const after = one.after[row] ?? null
    return before && after ? Math.abs(Math.log(after / before)) : 0
  })
  return moves.length ? moves.indexOf(Math.max(...moves)) : -1
}

function Numbers({ isOld }: { isOld: boolean }) {
  const { found, left, entries, targets } = useTuning()
  const isPoint = targets?.length === 0
  const parts = useGame((state) => state.parts)
  if (!found?.numbers.length)
    return (
      <div className="min-h-0 overflow-auto border-r border-hair px-3 pt-2 text-muted">
        <Ways />
        {found ? 'No number moves.' : <Free />}
      </div>
    )
  const many = found.numbers.length - left.size
  return (
    <div className="flex min-h-0 flex-col border-r border-hair">
      <div className="min-h-0 flex-1 overflow-auto px-3 pt-2">
        <Ways />
        <table className="w-full max-w-[680px]" aria-label="numbers that move">
          <thead>
            <tr className="head text-left">
              <th className="w-5 font-normal">
                <span className="sr-only">take it</span>
              </th>
              <th className="font-normal">Number</th>
              <th className="pl-3 text-right font-normal">is</th>
              <th className="pl-3 text-right font-normal">becomes</th>
              <th className="pl-3 font-normal">by</th>
              <th>
                <span className="sr-only">or keep it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {found.numbers.map((number) => (
              <tr key={number.where} className={left.has(number.where) ? 'text-muted' : ''}>
                <td>
                  <input
                    type="checkbox"
                    className="mr-2 align-[-2px] accent-gold"
                    aria-label={`take ${numberName(parts, number)}`}
                    checked={!left.has(number.where)}
                    onChange={() => void choose(number.where)}
                  />
                </td>
                <td className="max-w-0 w-full truncate">
                  <button
                    type="button"
                    className="block w-full truncate text-left hover:bg-gold-wash"
                    title={numberName(parts, number)}
                    onClick={() => show({ kind: number.kind, id: number.id })}
                  >
                    {numberName(parts, number)}
                  </button>
                </td>
                <td className="num whitespace-nowrap pl-3 text-right text-muted">
                  {asEntered(number.sort, number.before)}
                </td>
                <td className="num whitespace-nowrap pl-3 text-right font-semibold">
                  {asEntered(number.sort, number.after)}
                </td>
                <td className="num whitespace-nowrap pl-3 text-muted">
                  {sizeWords(number.before, number.after)}
                </td>
                <td className="whitespace-nowrap pl-3 text-right">
                  {!isPoint && (
                    <button
                      type="button"
                      className="label hover:text-ink"
                      title="Find again without moving this one"
                      onClick={() => keepNumber(number.where)}
                    >
                      keep it
                    </button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="flex items-center gap-3 border-t border-hair px-3 py-1.5">
        <button
          type="button"
          className="gold-button"
          disabled={!entries.length || isOld}
          onClick={() => void take()}
        >
          {left.size ? `Take ${many} of ${found.numbers.length}` : 'Take all'}
        </button>
        <span className="text-muted">one step; undo takes it back</span>
      </div>
    </div>
  )
}

const WAYS: Record<Way, string> = {
  smallest: 'the smallest change',
  fewest: 'the fewest numbers',
  weights: 'weights alone',
  curves: 'curves alone',
}

const KINDS: Record<string, Kind[]> = {
  'usual numbers': [],
  weights: ['weights'],
  chances: ['chances'],
  curves: ['curves'],
  guards: ['guards', 'chances', 'weights'],
  quantities: ['quantities'],
  'all numbers': ['weights', 'chances', 'curves', 'guards', 'quantities'],
}

const FACTORS = [1.1, 1.2, 1.5, 2, 3, 5, 10]

/** In which way numbers are looked for, as a sentence; and other ways that lead there, with their price. */
function Ways() {
  const { targets, way, kinds, most, holdLongRun, found, others } = useTuning()
  const carries = holdLongRun || Boolean(found?.long_run.length)
  // A point of a frontier is of no targets.
  if (targets?.length === 0) return null
  const kind = Object.keys(KINDS).find((name) => KINDS[name]?.join() === kinds.join())
  return (
    <p className="pb-1 text-muted">
      By{' '}
      <Choice
        label="in which way"
        value={way}
        options={WAYS}
        onChange={(next) => setWay({ way: next as Way })}
      />{' '}
      of{' '}
      <Choice
        label="of which numbers"
        value={kind ?? 'usual numbers'}
        options={Object.fromEntries(Object.keys(KINDS).map((name) => [name, name]))}
        onChange={(next) => setWay({ kinds: KINDS[next] ?? [] })}
      />
      , by{' '}
      <Choice
        label="by which factor at most"
        value={String(most ?? '')}
        options={{
          '': 'any factor',
          ...Object.fromEntries(FACTORS.map((x) => [x, `up to ×${x}`])),
        }}
        onChange={(next) => setWay({ most: next ? Number(next) : null })}
      />
      {carries && (
        <>
          , the long run{' '}
          <Choice
            label="the long run of waits"
            value={holdLongRun ? 'stays' : 'moves'}
            options={{ moves: 'may move', stays: 'stays' }}
            onChange={(next) => setWay({ holdLongRun: next === 'stays' })}
          />
        </>
      )}
      {found?.status === 'met' && <Price found={found} />}
      {others.map((other) => (
        <span key={other.way}>
          {'. Or '}
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => lookAtOther(other)}
          >
            {WAYS[other.way]}
          </button>
          <Price found={other.found} />
        </span>
      ))}
      .
    </p>
  )
}

function Price({ found }: { found: TuneOut }) {
  const many = found.numbers.length
  return (
    <span title="How large all of it is: the root of the sum of squared logarithms of ratios.">
      : {many} number{many === 1 ? '' : 's'}, <span className="num">{figures(found.size, 2)}</span>{' '}
      in all
    </span>
  )
}

/** What may move, before anything is found. */
function Free() {
  const { free } = useTuning()
  const parts = useGame((state) => state.parts)
  if (!free) return null
  return (
    <p>
      May move:{' '}
      {free.free.map(({ kind, id, numbers }, at) => (
        <span key={`${kind}/${id}`}>
          {at > 0 && ', '}
          <span className="name text-ink">{parts[kind].get(id)?.name ?? id}</span>{' '}
          {Object.entries(numbers)
            .map(([of, many]) => `${many} ${of}`)
            .join(' and ')}
        </span>
      ))}
      .
    </p>
  )
}

/** Chances in percent, as the grid has them. */
function asEntered(sort: string, value: number): string {
  return sort === 'chance' ? `${entered(100 * value)}\u202f%` : entered(value)
}

function Consequences() {
  const { found } = useTuning()
  const { parts } = useGamePart('parts')
  if (!found) return <div />
  if (found.conflict.length) return <Contradiction ids={found.conflict} />
  const names = { item: parts.item, tier: parts.tier } as const
  if (!found.targets.length) return <div />
  return (
    <div
      className="min-h-0 overflow-auto px-3 pt-2"
      role="region"
      aria-label="what else moves"
      tabIndex={0}
    >
      <LongRuns found={found} />
      <p className="head pb-1">What else moves</p>
      {!found.moved.length && <p className="text-muted">Nothing by more than 5 %.</p>}
      {found.moved.map((one) => (
        <p
          key={`${one.source}/${one.of}/${one.id}`}
          className="grid grid-cols-[1fr_auto] gap-x-2 leading-[1.35]"
          title={`at ${one.depth}`}
        >
          <span className="truncate">
            <span className="name">{parts.source.get(one.source)?.name}</span>,{' '}
            {one.of === 'value'
              ? 'its worth'
              : (names[one.of as 'item' | 'tier'].get(one.id)?.name ?? one.id)}
          </span>
          <span className="num text-muted">{sizeWords(one.before, one.after)}</span>
        </p>
      ))}
    </div>
  )
}

/** What shorter waits cost: how many more there are in the long run. */
function LongRuns({ found }: { found: TuneOut }) {
  const parts = useGame((state) => state.parts)
  const told = found.long_run.flatMap(({ target, depths, before, after }) => {
    const moved = before.map((x, at) => (x > 0 ? Math.abs(Math.log((after[at] ?? x) / x)) : 0))
    const at = moved.indexOf(Math.max(...moved))
    return before[at] ? [{ target, depth: depths[at], was: before[at], is: after[at] ?? 0 }] : []
  })
  if (!told.length) return null
  return (
    <>
      <p className="head pb-1">In the long run</p>
      {told.map(({ target, depth, was, is }) => (
        <p key={target} className="grid grid-cols-[1fr_auto] gap-x-2 pb-1" title={`at ${depth}`}>
          <span className="name truncate">{parts.target.get(target)?.name}</span>
          <span className="num text-muted">
            {figures(100 * was)} → <b className="text-ink">{figures(100 * is)}</b> per 100
          </span>
        </p>
      ))}
    </>
  )
}

function Contradiction({ ids }: { ids: string[] }) {
  const { parts } = useGamePart('parts')
  const targets = useTuning((state) => state.targets)
  const every =
    targets ?? [...parts.target.values()].filter((one) => !one.aside).map((one) => one.id)
  const alone = ids.length === 1
  return (
    <div className="min-h-0 overflow-auto px-3 pt-2" role="status" aria-label="contradiction">
      <p className="head pb-1">{alone ? 'Out of reach' : 'They contradict each other'}</p>
      <p className="pb-1 text-muted">
        {alone
          ? 'No numbers that may move lead there.'
          : 'Not all of these at once; without any one of them it can be done.'}
      </p>
      {ids.map((id) => {
        const target = parts.target.get(id)
        return (
          <p key={id} className="grid grid-cols-[1fr_auto] items-baseline gap-x-2 py-px">
            <span>
              <span className="name">{target?.name ?? id}</span>
              {target && <span className="text-muted">: {wantedWords(target)}</span>}
            </span>
            {every.length > 1 && (
              <button
                type="button"
                className="label hover:text-ink"
                onClick={() => findNumbers(every.filter((one) => one !== id))}
              >
                without it
              </button>
            )}
          </p>
        )
      })}
    </div>
  )
}

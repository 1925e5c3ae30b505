// At the foot of the bench: what must hold, which numbers make it hold, what else they move. The sheets
// above show the new numbers beside the old ones meanwhile.
import { useEffect } from 'react'
import type { Target, TuneOut } from '@/api/types'
import { setDraft, show, useGame, useGamePart } from '@/game/store'
import { isOrder, told, wantedWords } from '@/game/targets'
import { percent, written } from '@/text/format'
import { TargetMark } from '@/ui/TargetMark'
import { Consequences } from './Consequences'
import { numberName, sizeWords } from './names'
import {
  ask,
  choose,
  isOfPoint,
  keepNumber,
  leaveTuning,
  setRounded,
  stopAsking,
  take,
  useTuning,
} from './tuning'
import { Free, Ways, WAYS } from './Ways'

export function TuningStrip() {
  const { open, found, entries, seen, content } = useTuning()
  const { sheet, content: now } = useGamePart('sheet', 'content')
  // Another sheet forgets what is tried; here it goes on being tried.
  useEffect(() => {
    if (open && entries.length) setDraft(entries, seen ?? undefined)
  }, [open, entries, seen, sheet])
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
  const { found, stop, problem, rounded } = useTuning()
  const isPoint = useTuning(isOfPoint)
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
        {found?.played.map((id) => (
          <p key={id} className="text-muted">
            <span className="name">{parts.target.get(id)?.name}</span> is told by openings of the
            same players before and after, not exactly
          </p>
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
        {!isPoint && found && found.rounding > 0.0005 && (
          <span className="text-note text-muted">
            the change is <span className="num">{percent(found.rounding)}</span> % larger by them
          </span>
        )}
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
  const { found, left, entries } = useTuning()
  const isPoint = useTuning(isOfPoint)
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

/** Chances in percent, as the grid has them. */
function asEntered(sort: string, value: number): string {
  return sort === 'chance' ? `${written(100 * value)}\u202f%` : written(value)
}

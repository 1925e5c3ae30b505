// What else a proposal moves, what shorter waits cost in the long run; or why it cannot be done.
import type { TuneOut } from '@/api/types'
import { useGame, useGamePart } from '@/game/store'
import { wantedWords } from '@/game/targets'
import { figures } from '@/text/format'
import { sizeWords } from './names'
import { findNumbers, useTuning } from './tuning'

export function Consequences() {
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

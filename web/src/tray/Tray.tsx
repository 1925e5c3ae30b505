// Roll a few, to get a feel: what fell, how, and the count so far beside what was expected.
import { useEffect, useRef, useState } from 'react'
import type { RolledEvent } from '@/api/types'
import { useGame, useGamePart } from '@/game/store'
import { eventWords, ROLL } from '@/game/words'
import { amount, figures, whole } from '@/text/format'
import { GoldDie, TierMark } from '@/ui/Marks'
import type { Rolls } from './useRolls'

export function Tray({ rolls }: { rolls: Rolls }) {
  const { parts, sheet, replay } = useGamePart('parts', 'sheet', 'replay')
  const [folded, setFolded] = useState(false)
  const [chosen, setChosen] = useState<number | null>(null)
  const source = sheet?.kind === 'source' ? parts.source.get(sheet.id) : undefined
  const words = sheet?.kind === 'table' ? ROLL : eventWords(source)
  const event = rolls.events.find((one) => one.event === chosen) ?? rolls.events[0]
  // One line until something is rolled: an empty tray would take the room of the numbers.
  const isEmpty = rolls.events.length === 0 && !replay
  if (folded || isEmpty)
    return <Folded rolls={rolls} words={words} onOpen={isEmpty ? null : () => setFolded(false)} />
  return (
    <div
      className="grid h-[150px] grid-cols-[148px_minmax(180px,1.15fr)_minmax(180px,1fr)_250px] border-t border-hair bg-raised text-small"
      role="region"
      aria-label="tray"
    >
      <Heard rolls={rolls} word={words.one} />
      <div className="flex flex-col gap-1.5 border-r border-hair p-2.5">
        <RollButtons rolls={rolls} />
        <ReplayNote />
        <div className="mt-auto flex justify-between text-muted">
          <button
            type="button"
            className="hover:text-ink"
            onClick={rolls.clear}
            disabled={!rolls.last}
          >
            start over
          </button>
          <button type="button" className="hover:text-ink" onClick={() => setFolded(true)}>
            fold
          </button>
        </div>
      </div>
      <div className="min-w-0 overflow-auto border-r border-hair">
        <p className="label sticky top-0 flex justify-between bg-raised px-3 py-1">
          <span>{words.one}, what fell, newest first</span>
          <span>{parts.settings.currency}</span>
        </p>
        {rolls.events.length === 0 && (
          <p className="px-3 text-muted">Nothing rolled yet. Press R to roll one {words.one}.</p>
        )}
        {rolls.events.map((one) => (
          <EventRow
            key={one.event}
            event={one}
            chosen={one === event}
            onChoose={() => setChosen(one.event)}
          />
        ))}
      </div>
      <div
        className={`min-w-0 overflow-auto border-r border-hair px-3 ${event ? 'bg-gold-wash/60' : ''}`}
      >
        {event ? (
          <Trace event={event} word={words.one} />
        ) : (
          <p className="label py-1">How it came about, number by number.</p>
        )}
      </div>
      <Counts rolls={rolls} words={words} />
    </div>
  )
}

function RollButtons({ rolls }: { rolls: Rolls }) {
  const held = useRef(0)
  useEffect(() => () => clearInterval(held.current), [])
  const stop = () => clearInterval(held.current)
  const latest = useRef(rolls)
  useEffect(() => {
    latest.current = rolls
  })
  return (
    <>
      <button
        type="button"
        className="gold-button flex items-center justify-between"
        onClick={() => rolls.roll(1)}
      >
        Roll once <kbd className="num rounded-sm border border-ink/30 px-1 text-tiny">R</kbd>
      </button>
      <button
        type="button"
        className="plain-button flex items-center justify-between"
        onClick={() => rolls.roll(100)}
      >
        Roll 100 <kbd className="num text-tiny text-muted">Shift R</kbd>
      </button>
      <button
        type="button"
        className="plain-button flex items-center justify-between"
        onPointerDown={() => {
          held.current = window.setInterval(() => latest.current.roll(1), 90)
        }}
        onPointerUp={stop}
        onPointerLeave={stop}
      >
        Roll on <span className="text-muted">while held</span>
      </button>
    </>
  )
}

/** The latest roll, for who hears the page instead of seeing it. */
function Heard({ rolls, word }: { rolls: Rolls; word: string }) {
  const items = useGame((state) => state.parts.item)
  const newest = rolls.events[0]
  const fell = newest?.received.map(({ item, count }) => {
    const name = items.get(item)?.name ?? item
    return count > 1 ? `${name} times ${count}` : name
  })
  return (
    <p role="status" className="sr-only">
      {newest && `${word} ${newest.event}: ${fell?.join(', ') || 'nothing'}`}
    </p>
  )
}

function Received({ event, most }: { event: RolledEvent; most: number }) {
  const { parts } = useGamePart('parts')
  const counts = new Map<string, number>()
  for (const { item, count } of event.received) counts.set(item, (counts.get(item) ?? 0) + count)
  if (!counts.size) return <span className="text-muted">nothing</span>
  return (
    <>
      {[...counts].slice(0, most).map(([id, count]) => {
        const item = parts.item.get(id)
        return (
          <span key={id} className="mr-2.5 inline-flex items-center gap-1 whitespace-nowrap">
            <TierMark tier={parts.tier.get(item?.tier ?? '')} size={11} />
            <span className="name text-body">{item?.name ?? id}</span>
            {count > 1 && <span className="num text-muted">×{count}</span>}
          </span>
        )
      })}
    </>
  )
}

function EventRow({
  event,
  chosen,
  onChoose,
}: {
  event: RolledEvent
  chosen: boolean
  onChoose: () => void
}) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      className={`flex w-full items-center gap-3 px-3 py-[1px] text-left hover:bg-gold-wash ${chosen ? 'bg-gold-wash/60' : ''}`}
    >
      <span className="num w-8 shrink-0 text-right text-muted">{event.event}</span>
      <span className="min-w-0 flex-1 truncate">
        <Received event={event} most={6} />
      </span>
      <span className="num">{amount(event.value)}</span>
    </button>
  )
}

/** Every decision of one event, in order; copied as text. */
function Trace({ event, word }: { event: RolledEvent; word: string }) {
  const text = event.steps.map((step) => step.text).join('\n')
  return (
    <>
      <p className="label sticky top-0 flex justify-between bg-noted py-1">
        <span>
          How {word} {event.event} came about
        </span>
        <button
          type="button"
          className="hover:text-ink"
          onClick={() => void navigator.clipboard.writeText(text)}
        >
          copy
        </button>
      </p>
      <ol>
        {event.steps.map((step, at) => (
          <li
            key={at}
            className={`leading-[1.45] ${step.kind === 'item' ? 'name pl-3 text-body' : ''}`}
          >
            {step.text}
          </li>
        ))}
      </ol>
    </>
  )
}

function Counts({ rolls, words }: { rolls: Rolls; words: { one: string; many: string } }) {
  const { parts } = useGamePart('parts')
  const { last } = rolls
  return (
    <div className="overflow-auto px-3">
      <div className="label sticky top-0 grid grid-cols-[1fr_50px_56px_34px] gap-1 bg-raised py-1 text-right">
        <span className="text-left text-ink">
          <b className="num">{whole(last?.rolled ?? 0)}</b>{' '}
          {last?.rolled === 1 ? words.one : words.many}
        </span>
        <span>fell</span>
        <span>expected</span>
        <span />
      </div>
      {!last && <p className="label">What falls, beside what was to be expected.</p>}
      {last?.tiers.map((row) => (
        <CountRow
          key={row.tier}
          name={parts.tier.get(row.tier)?.name ?? row.tier}
          tier={row.tier}
          fell={row.fell}
          expected={row.expected}
          sd={row.sd}
        />
      ))}
      {last && (
        <div className="mt-0.5 border-t border-hair">
          <CountRow
            name={parts.settings.currency ?? 'value'}
            fell={last.value}
            expected={last.value_expected}
            sd={last.value_sd}
          />
        </div>
      )}
    </div>
  )
}

function CountRow({
  name,
  tier,
  fell,
  expected,
  sd,
}: {
  name: string
  tier?: string
  fell: number
  expected: number | null
  sd: number | null
}) {
  const found = useGame((state) => (tier ? state.parts.tier.get(tier) : undefined))
  const told = expected !== null && sd !== null && sd > 0
  const z = told ? Math.max(-3, Math.min(3, (fell - expected) / sd)) : 0
  return (
    <div className="grid grid-cols-[1fr_50px_56px_34px] items-center gap-1 leading-[19px]">
      <span className="flex items-center gap-1.5 truncate">
        {tier && <TierMark tier={found} size={11} />}
        {name}
      </span>
      <b className="num text-right">{amount(fell)}</b>
      <span className="num text-right text-muted">
        {expected === null ? 'untold' : figures(expected)}
      </span>
      <svg
        viewBox="0 0 34 10"
        width="34"
        height="10"
        aria-label={
          told ? `${z.toFixed(1)} standard deviations` : 'not set beside what is expected'
        }
      >
        <rect x="6" y="2.5" width="22" height="5" fill="var(--color-shade)" />
        <line x1="17" x2="17" y1="1" y2="9" stroke="var(--color-ghost)" />
        {told && <circle cx={17 + z * 5} cy="5" r="2.6" fill="var(--color-ink)" />}
      </svg>
    </div>
  )
}

function Folded({
  rolls,
  words,
  onOpen,
}: {
  rolls: Rolls
  words: { one: string; many: string }
  /** Null where there is nothing to unfold. */
  onOpen: (() => void) | null
}) {
  const { parts } = useGamePart('parts')
  const { last } = rolls
  const newest = rolls.events[0]
  return (
    <div
      className="flex h-8 items-center gap-4 border-t border-hair bg-raised px-3 text-small"
      role="region"
      aria-label="tray"
    >
      <button
        type="button"
        className="gold-button flex items-center gap-1.5 py-0.5"
        onClick={() => rolls.roll(1)}
      >
        <GoldDie size={14} /> Roll once
      </button>
      <button type="button" className="plain-button py-0.5" onClick={() => rolls.roll(100)}>
        Roll 100
      </button>
      <span className="min-w-0 flex-1 truncate">
        {newest ? (
          <Received event={newest} most={5} />
        ) : (
          <span className="text-muted">
            Nothing rolled yet: R rolls one {words.one}, Shift R a hundred.
          </span>
        )}
      </span>
      {last && (
        <span>
          <b className="num">{whole(last.rolled)}</b> {words.many} rolled,{' '}
          <b className="num">{amount(last.value)}</b> {parts.settings.currency}
          {last.value_expected !== null && (
            <>
              , expected <span className="num">{figures(last.value_expected)}</span>
            </>
          )}
        </span>
      )}
      {onOpen && (
        <button
          type="button"
          aria-label="open the tray"
          className="text-muted hover:text-ink"
          onClick={onOpen}
        >
          unfold
        </button>
      )}
    </div>
  )
}

function ReplayNote() {
  const { replay, parts } = useGamePart('replay', 'parts')
  if (!replay) return null
  return (
    <button
      type="button"
      className="text-left text-waiting"
      title="back to a new one"
      onClick={() => useGame.setState({ replay: null })}
    >
      {parts.settings.words?.player ?? 'player'} {replay.player} of the trial
    </button>
  )
}

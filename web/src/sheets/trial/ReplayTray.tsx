// A player of a trial again: event by event, step by step or at speed, with how each came about.
import { useEffect, useState } from 'react'
import { useReplay, useTrial } from '@/game/queries'
import type { ReplayedEvent, TrialOut } from '@/api/types'
import { useGame } from '@/game/store'
import { amount, whole } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { typedNumber } from '@/text/numbers'
import { EditText } from '@/ui/EditText'
import { aboutTrial, replay, usePlayer } from './about'

const PACE = 350 // ms an event, at speed

/** The tray of a trial: whoever was picked in its report, again. */
export function ReplayTray({ id }: { id: string }) {
  const player = usePlayer(id)
  const { data: trial } = useTrial(id)
  if (player === null || !trial) return null
  return <Replayed key={player} trial={trial} player={player} />
}

function Replayed({ trial, player }: { trial: TrialOut; player: number }) {
  const parts = useGame((state) => state.parts)
  const [at, setAt] = useState(0)
  const [runs, setRuns] = useState(false)
  const [first, setFirst] = useState(1)
  const { data, error } = useReplay(trial.id, player, first)
  const { words } = aboutTrial(parts, trial.spec)
  const events = data?.events ?? []
  const shown = events[at]
  const last = events.findLast((event) => event.event > 0)?.event ?? 0
  const begin = (event: number) => {
    setAt(0)
    setFirst(event)
  }
  const step = (by: number) => setAt((now) => Math.max(0, Math.min(events.length - 1, now + by)))

  useEffect(() => {
    if (!runs || at >= events.length - 1) return
    const timer = setTimeout(() => setAt(at + 1), PACE)
    return () => clearTimeout(timer)
  }, [runs, at, events.length])

  const { player: word = 'player', depth = 'depth' } = parts.settings.words ?? {}
  return (
    <section
      className="grid h-[190px] shrink-0 grid-cols-[210px_1fr_1fr] border-t border-hair bg-raised text-small"
      aria-label="replay"
      onKeyDown={(event) => {
        const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
        if (!by || (event.target as HTMLElement).closest('input')) return
        event.preventDefault()
        step(by)
      }}
    >
      <div className="flex flex-col gap-1.5 border-r border-hair p-2.5">
        <p className="head">
          {word}{' '}
          <EditText
            label={`which ${word}`}
            text={String(player)}
            className="choice num text-ink"
            inputClass="num w-20"
            onCommit={(text) => {
              const number = typedNumber(text)
              if (
                number === null ||
                !Number.isInteger(number) ||
                number < 0 ||
                number >= trial.spec.players
              )
                return { message: `a whole number from 0 to ${trial.spec.players - 1}` }
              replay(trial.id, number)
              return null
            }}
          />{' '}
          again
        </p>
        <p className="label">
          had <b className="num text-ink">{amount(data?.value ?? 0)}</b> {parts.settings.currency}{' '}
          after {words.one} <span className="num">{whole(last)}</span>
        </p>
        <p className="flex gap-1.5">
          <button
            type="button"
            className="plain-button"
            disabled={at === 0}
            onClick={() => step(-1)}
          >
            back
          </button>
          <button
            type="button"
            className="plain-button"
            disabled={at >= events.length - 1}
            onClick={() => step(1)}
          >
            one on
          </button>
          <button type="button" className="plain-button" onClick={() => setRuns(!runs)}>
            {runs ? 'hold' : 'at speed'}
          </button>
        </p>
        <p className="mt-auto flex justify-between text-muted">
          {last > 0 && (
            <button type="button" className="hover:text-ink" onClick={() => begin(last + 1)}>
              the next {words.many}
            </button>
          )}
          {first > 1 && (
            <button type="button" className="hover:text-ink" onClick={() => begin(1)}>
              from the start
            </button>
          )}
          <button type="button" className="hover:text-ink" onClick={() => replay(trial.id, null)}>
            close
          </button>
        </p>
      </div>
      <ol
        className="min-w-0 overflow-auto border-r border-hair"
        aria-label="events"
        aria-busy={!data && !error}
      >
        <li className="label sticky top-0 grid grid-cols-[36px_34px_1fr_auto] gap-2 bg-raised py-1 pl-1 pr-3">
          <span className="text-right">{words.one}</span>
          <span className="text-right">{depth}</span>
          <span>what fell</span>
          <span>{parts.settings.currency}</span>
        </li>
        {error && <li className="px-3 text-bad">{error.message}</li>}
        {!data && !error && <li className="label px-3 py-1">Being played again.</li>}
        {events.map((event, place) => (
          <EventRow
            key={place}
            event={event}
            trial={trial}
            isShown={place === at}
            onShow={() => setAt(place)}
          />
        ))}
      </ol>
      <ol
        className="min-w-0 overflow-auto bg-gold-wash/60 px-3 py-1 text-note"
        aria-label="how it came about"
      >
        {shown?.steps.map((step, place) => (
          <li
            key={place}
            className={`leading-[1.45] ${step.kind === 'item' ? 'name pl-3 text-body' : ''}`}
          >
            {step.text}
          </li>
        ))}
      </ol>
    </section>
  )
}

/** Its number; what a visit itself gives, and what was not paid for, has none. */
const placeOf = ({ event }: ReplayedEvent) => (event > 0 ? event : event === 0 ? '' : 'met')

function EventRow({
  event,
  trial,
  isShown,
  onShow,
}: {
  event: ReplayedEvent
  trial: TrialOut
  isShown: boolean
  onShow: () => void
}) {
  const parts = useGame((state) => state.parts)
  const stop = event.stop === null ? undefined : trial.result?.stops?.[event.stop]
  return (
    <li ref={(node) => (isShown ? node?.scrollIntoView({ block: 'nearest' }) : undefined)}>
      <button
        type="button"
        aria-pressed={isShown}
        className={`grid w-full grid-cols-[36px_34px_1fr_auto] items-center gap-2 pl-1 pr-3 text-left text-note ${isShown ? 'bg-gold-wash' : 'hover:bg-gold-wash'}`}
        onClick={onShow}
      >
        <span className="num text-right text-muted">{placeOf(event)}</span>
        <span className="num text-right text-muted">{stop?.depth ?? ''}</span>
        <span className="flex min-w-0 items-center gap-1.5 truncate">
          {event.received.slice(0, 4).map((one, at) => (
            <span key={at} className="flex items-center gap-1">
              <TierMark tier={parts.tier.get(parts.item.get(one.item)?.tier ?? '')} size={11} />
              <span className="name">{parts.item.get(one.item)?.name ?? one.item}</span>
              {one.count > 1 && <span className="num">×{one.count}</span>}
            </span>
          ))}
          {!event.received.length && (
            <span className="italic text-muted">
              {event.event === 0 ? event.steps[0]?.text : 'nothing'}
            </span>
          )}
        </span>
        <span className="num">{event.value ? amount(event.value) : ''}</span>
      </button>
    </li>
  )
}

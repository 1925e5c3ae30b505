// What a target wants, as a sentence whose words are choices.
import type { Target } from '@/api/types'
import type { Answer } from '@/game/edit'
import { useGamePart } from '@/game/store'
import type { Parts } from '@/game/parts'
import {
  aboutOf,
  FIGURES,
  figureWords,
  goodsOf,
  hasFigure,
  isOrder,
  LOOKED_AT,
  SIDES,
  partsOf,
  slotsOf,
  thingName,
  typedWanted,
  wantedShort,
  wantedText,
  type Figure,
  type LookedAt,
} from '@/game/targets'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { FlagButtons } from '@/ui/FlagButtons'
import { entered } from '@/text/format'
import { readRange } from '@/text/readers'
import { typedNumber } from '@/text/numbers'
import { withFigure, withSide, withThing, withView, type Save } from './edits'

export function Sentence({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const { of, longRun } = FIGURES[target.figure]
  const player = parts.settings.words?.player ?? 'player'
  const isRolled = Boolean(target.source ?? target.table)
  return (
    <p className="text-body leading-6 text-muted">
      In <ViewChoice target={target} onSave={onSave} />{' '}
      <FigureChoice target={target} onSave={onSave} /> <After target={target} onSave={onSave} />
      {of !== 'event' && <ThingChoice target={target} onSave={onSave} />} should be{' '}
      <SideChoice target={target} onSave={onSave} />{' '}
      {!isOrder(target) && <Wanted target={target} onSave={onSave} />}{' '}
      {target.route && 'at its end'}
      {!target.route && !target.stall && <Depths target={target} onSave={onSave} />}
      {longRun && isRolled && (
        <>
          , for{' '}
          <Choice
            label="fresh or long run"
            value={target.long_run ? 'long' : 'fresh'}
            options={{ fresh: `a fresh ${player}`, long: 'the long run' }}
            onChange={(run) => void onSave('long run', { long_run: run === 'long' })}
          />
        </>
      )}
    </p>
  )
}

function SideChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { near, 'at-least': least, 'at-most': most, ...orders } = SIDES
  const ordered = target.route || target.stall ? {} : orders
  return (
    <Choice
      label="which side"
      value={target.side ?? 'near'}
      options={{ near, 'at-least': least, 'at-most': most, ...ordered }}
      onChange={(side) => void onSave('side', (now) => withSide(now, side as Target['side']))}
    />
  )
}

function Depths({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <>
      at {word}s{' '}
      <EditText
        label={`${word}s that it asks about`}
        text={target.depths ? target.depths.join('-') : 'all'}
        className="choice num text-ink"
        onCommit={(text) => {
          const range = readRange(text, [from, to])
          return typeof range === 'string'
            ? { message: range }
            : onSave('depths', { depths: range })
        }}
      />
    </>
  )
}

/** What some figures need more: how sure, after how many events, which spread, less than what. */
function After({ target, onSave }: { target: Target; onSave: Save }) {
  const { after } = FIGURES[target.figure]
  return (
    <>
      {target.figure === 'wait' && (
        <Choice
          label="how sure"
          value={String(target.sure)}
          options={{ 50: 'half have', 90: 'nine in ten have', 99: '99 in 100 have' }}
          onChange={(sure) => void onSave('how sure', { sure: Number(sure) as Target['sure'] })}
        />
      )}
      {target.figure === 'spread' && (
        <Choice
          label="which spread"
          value={target.spread}
          options={SPREADS}
          onChange={(spread) => void onSave('which spread', { spread: spread as Target['spread'] })}
        />
      )}
      {target.figure === 'less' && (
        <Amount
          label="less than"
          value={target.less_than}
          onSave={(less_than) => onSave('less than', { less_than })}
        />
      )}
      {after && (
        <>
          {' after '}
          <Amount
            label="after how many events"
            value={target.events}
            isWhole
            onSave={(events) => onSave('after how many', { events })}
          />{' '}
        </>
      )}
      {target.figure === 'wait' && ' '}
    </>
  )
}

const SPREADS = {
  cv: 'sd over mean',
  sd: 'sd',
  'p95/p5': 'the 95th of 100 over the 5th',
} as const

function Amount({
  label,
  value,
  isWhole,
  onSave,
}: {
  label: string
  value: number
  isWhole?: boolean
  onSave: (value: number) => Answer
}) {
  return (
    <EditText
      label={label}
      text={entered(value)}
      className="choice num text-ink"
      inputClass="num w-20"
      onCommit={(text) => {
        const typed = typedNumber(text)
        if (typed === null || typed < 0) return { message: 'write a number' }
        if (isWhole && (!Number.isInteger(typed) || typed < 1))
          return { message: 'write a whole number of 1 or more' }
        return onSave(typed)
      }}
    />
  )
}

/** The number with its tolerance; `signed` with its side too, where no choice beside it tells it. */
export function Wanted({
  target,
  onSave,
  signed,
}: {
  target: Target
  onSave: Save
  signed?: boolean
}) {
  return (
    <EditText
      label={`wanted, ${target.name}`}
      text={signed ? wantedShort(target) : wantedText(target)}
      className="field num border-b-2 border-b-gold font-semibold text-ink"
      inputClass="num w-28"
      onCommit={(text) => {
        const wanted = typedWanted(text, target)
        return typeof wanted === 'string' ? { message: wanted } : onSave('wanted', wanted)
      }}
    />
  )
}

function ViewChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const options = Object.fromEntries(
    LOOKED_AT.flatMap((kind) =>
      [...parts[kind].values()].map((one) => [`${kind}/${one.id}`, one.name]),
    ),
  )
  const kind = aboutOf(target)
  const lost: Record<string, string> = kind ? {} : { '': 'nothing any more' }
  return (
    <Choice
      label="source or table"
      value={kind ? `${kind}/${target[kind]}` : ''}
      options={{ ...lost, ...options }}
      onChange={(chosen) => {
        const [of, id = ''] = chosen.split('/')
        void onSave('of what', (now) => withView(parts, now, of as LookedAt, id))
      }}
    />
  )
}

function FigureChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const source = parts.source.get(target.source ?? '')
  const about = aboutOf(target) ?? 'table'
  const figures = (Object.keys(FIGURES) as Figure[]).filter((figure) => {
    const { of } = FIGURES[figure]
    if (of === 'set' && !parts.set.size) return false
    if (of === 'slot' && !slotsOf(parts).length) return false
    return hasFigure(about, figure)
  })
  return (
    <Choice
      label="figure"
      value={target.figure}
      options={Object.fromEntries(figures.map((one) => [one, figureWords(one, source, about)]))}
      onChange={(figure) =>
        void onSave('figure', (now) => withFigure(parts, now, figure as Figure))
      }
    />
  )
}

function ThingChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const every = things(parts, target)
  const { item, tier, tag, swing_of, set, slot, good } = target
  const isLost = ![item, tier, tag, swing_of, set, slot, good].some(Boolean)
  const options = Object.fromEntries(every.map((one) => [thingKey(one), thingName(parts, one)]))
  return (
    <Choice
      label="item or tier"
      value={isLost ? '' : thingKey(target)}
      options={isLost ? { '': 'nothing any more', ...options } : options}
      onChange={(chosen) => {
        const next = every.find((one) => thingKey(one) === chosen)
        if (next) void onSave('of what', (now) => withThing(parts, now, next))
      }}
    />
  )
}

/** All that its figure can be of. */
function things(parts: Parts, target: Target): Target[] {
  const { of } = FIGURES[target.figure]
  if (of === 'part') return partsOf(parts, target).map((swing_of) => ({ ...target, swing_of }))
  if (of === 'set') return [...parts.set.keys()].map((set) => ({ ...target, set }))
  if (of === 'slot') return slotsOf(parts).map((slot) => ({ ...target, slot }))
  if (of === 'good') return goodsOf(parts, target).map(({ id }) => ({ ...target, good: id }))
  const none = { ...target, item: null, tier: null, tag: null }
  const items = [...parts.item.keys()].map((item) => ({ ...none, item }))
  if (target.place && target.figure === 'chance') return items
  const tiers = [...parts.tier.keys()].map((tier) => ({ ...none, tier }))
  if (of === 'tier') return tiers
  const tags = [...new Set([...parts.item.values()].flatMap((item) => item.tags ?? []))].sort()
  const groups = [...tiers, ...tags.map((tag) => ({ ...none, tag }))]
  if (of === 'group') return groups
  return [...groups, ...items]
}

function thingKey({ item, tier, tag, swing_of, set, slot, good }: Target): string {
  if (good) return `good/${good}`
  if (set) return `set/${set}`
  if (slot) return `slot/${slot}`
  if (swing_of) return `part/${swing_of.table ?? ''}/${swing_of.part}`
  return item ? `item/${item}` : tag ? `tag/${tag}` : `tier/${tier}`
}

/** The flags that are set for its players; no others are. */
export function FlagChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  if (!parts.flag.size) return null
  return (
    <div className="mb-3">
      <p className="head mb-1">Its {parts.settings.words?.player ?? 'player'}s have</p>
      <FlagButtons
        label="flags of its players"
        set={target.flags ?? []}
        onChange={(flags) => void onSave('flags', { flags })}
      />
    </div>
  )
}

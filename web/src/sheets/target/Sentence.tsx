// What a target wants, as a sentence whose words are choices.
import type { Target } from '@/api/types'
import { type Failure, useGamePart } from '@/game/store'
import {
  FIGURES,
  SIDES,
  figureWords,
  targetView,
  thingName,
  typedWanted,
  wantedShort,
  wantedText,
  type Figure,
} from '@/game/targets'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { FlagButtons } from '@/ui/FlagButtons'
import { typedRange } from '@/ui/format'
import { withFigure, withThing, withView } from './edits'

type Save = (label: string, changed: Target) => Promise<Failure | null>

export function Sentence({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const { of, longRun } = FIGURES[target.figure]
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  const player = parts.settings.words?.player ?? 'player'
  return (
    <p className="text-body leading-6 text-muted">
      In <ViewChoice target={target} onSave={onSave} />{' '}
      <FigureChoice target={target} onSave={onSave} />{' '}
      {target.figure === 'wait' && (
        <Choice
          label="how sure"
          value={String(target.sure)}
          options={{ 50: 'half have', 90: 'nine in ten have', 99: '99 in 100 have' }}
          onChange={(sure) =>
            void onSave('how sure', { ...target, sure: Number(sure) as Target['sure'] })
          }
        />
      )}{' '}
      {of !== 'event' && <ThingChoice target={target} onSave={onSave} />} should be{' '}
      <Choice
        label="which side"
        value={target.side ?? 'near'}
        options={SIDES}
        onChange={(side) => void onSave('side', { ...target, side: side as Target['side'] })}
      />{' '}
      <Wanted target={target} onSave={onSave} /> at {word}s{' '}
      <EditText
        label={`${word}s that it asks about`}
        text={target.depths ? target.depths.join('-') : 'all'}
        className="choice num text-ink"
        onCommit={(text) => {
          const range = typedRange(text, [from, to])
          return typeof range === 'string'
            ? { message: range }
            : onSave('depths', { ...target, depths: range })
        }}
      />
      {longRun && (
        <>
          , for{' '}
          <Choice
            label="fresh or long run"
            value={target.long_run ? 'long' : 'fresh'}
            options={{ fresh: `a fresh ${player}`, long: 'the long run' }}
            onChange={(run) => void onSave('long run', { ...target, long_run: run === 'long' })}
          />
        </>
      )}
    </p>
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
        return typeof wanted === 'string'
          ? { message: wanted }
          : onSave('wanted', { ...target, ...wanted })
      }}
    />
  )
}

function ViewChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const view = targetView(target)
  const options = Object.fromEntries(
    (['source', 'table'] as const).flatMap((kind) =>
      [...parts[kind].values()].map((one) => [`${kind}/${one.id}`, one.name]),
    ),
  )
  return (
    <Choice
      label="source or table"
      value={`${view.kind}/${view.id}`}
      options={options}
      onChange={(chosen) => {
        const [kind, id = ''] = chosen.split('/')
        void onSave(
          'of what',
          withView(parts, target, { kind: kind === 'source' ? 'source' : 'table', id }),
        )
      }}
    />
  )
}

function FigureChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const source = parts.source.get(target.source ?? '')
  const figures = (Object.keys(FIGURES) as Figure[]).filter(
    (figure) => source || !FIGURES[figure].perHour,
  )
  return (
    <Choice
      label="figure"
      value={target.figure}
      options={Object.fromEntries(figures.map((one) => [one, figureWords(one, source)]))}
      onChange={(figure) => void onSave('figure', withFigure(parts, target, figure as Figure))}
    />
  )
}

function ThingChoice({ target, onSave }: { target: Target; onSave: Save }) {
  const { parts } = useGamePart('parts')
  const tiers = [...parts.tier.keys()].map((tier) => ({ ...target, item: null, tier }))
  const items = [...parts.item.keys()].map((item) => ({ ...target, item, tier: null }))
  const every = FIGURES[target.figure].of === 'tier' ? tiers : [...tiers, ...items]
  const key = (one: Target) => (one.item ? `item/${one.item}` : `tier/${one.tier}`)
  return (
    <Choice
      label="item or tier"
      value={key(target)}
      options={Object.fromEntries(every.map((one) => [key(one), thingName(parts, one)]))}
      onChange={(chosen) => {
        const next = every.find((one) => key(one) === chosen)
        if (next) void onSave('of what', withThing(parts, target, next))
      }}
    />
  )
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
        onChange={(flags) => void onSave('flags', { ...target, flags })}
      />
    </div>
  )
}

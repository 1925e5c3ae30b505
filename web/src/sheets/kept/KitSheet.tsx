// Kit: what is worn in each slot along a route, or at a source; how it rises, and how rarely an event is an upgrade
// by then. What a point of each stat is worth in a score stands below.
import { useKept, useKit } from '@/game/queries'
import type { KitOut, SlotExactly, SlotKept } from '@/api/types'
import { changeSettings } from '@/game/edit'
import { useGame, useGamePart } from '@/game/store'
import { EVENT_OF } from '@/game/words'
import { SpanPlot } from '@/plots/Span'
import { Hold } from '@/sheets/target/Hold'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent, whole } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { Pending } from '@/ui/Pending'
import { typedNumber } from '@/text/numbers'
import { asked, useSubject, type Subject } from './subject'
import { SubjectChoice } from './SubjectChoice'

export function KitSheet() {
  const { parts } = useGamePart('parts')
  const subject = useSubject()
  const kept = useKept(asked(subject))
  const { data, isPlaceholderData } = kept
  const { data: deep } = useKit(subject?.source ?? null, subject?.events ?? 1)
  const slots = new Set([...parts.item.values()].flatMap((item) => (item.slot ? [item.slot] : [])))
  return (
    <div className="px-5 pb-10 pt-3">
      <header className="border-b border-hair pb-2">
        <h1 className="name text-title leading-10">Kit</h1>
        {subject && (
          <p className="text-note text-muted">
            What is worn by <SubjectChoice subject={subject} />
            {data && (
              <span role="status" className="ml-3">
                {whole(data.players)} played
              </span>
            )}
          </p>
        )}
      </header>
      {slots.size === 0 && (
        <p className="py-4 text-muted">
          Nothing is worn yet. Give an item a slot and stats on its own sheet: the best score in a
          slot is worn.
        </p>
      )}
      {subject && slots.size > 0 && !data && <Pending of={kept} what="what is worn" />}
      <div aria-busy={isPlaceholderData}>
        {subject &&
          data &&
          [...slots].map((slot) => (
            <SlotBlock
              key={slot}
              slot={slot}
              subject={subject}
              kept={data.slots?.[slot]}
              exact={data.exact.slots[slot]}
              deep={subject.source ? deep : undefined}
            />
          ))}
      </div>
      {slots.size > 0 && <Scores />}
    </div>
  )
}

interface SlotProps {
  slot: string
  subject: Subject
  kept: SlotKept | undefined
  exact: SlotExactly | undefined
  deep: KitOut | undefined
}

function SlotBlock({ slot, subject, kept, exact, deep }: SlotProps) {
  const parts = useGame((state) => state.parts)
  const word = parts.settings.words?.depth ?? 'depth'
  if (!kept)
    return (
      <section aria-label={`slot ${slot}`} className="border-b border-hair py-3">
        <h2 className="name text-heading">{slot}</h2>
        <p className="text-muted">Nothing for it comes here.</p>
      </section>
    )
  const unit =
    subject.route === null ? wordOf(parts.source.get(subject.source ?? '')?.kind) : 'stop'
  const shift = subject.route === null ? 0 : 1 // stops count from 1 for people
  const points = kept.along.map((one) => ({ ...one, at: one.at + shift }))
  return (
    <section aria-label={`slot ${slot}`} className="border-b border-hair py-3">
      <div className="flex flex-wrap items-baseline gap-x-4">
        <h2 className="name text-heading">{slot}</h2>
        <Sentence {...{ slot, subject, kept, exact, unit }} />
      </div>
      <div className="mt-1 grid grid-cols-2 gap-6">
        <div>
          <p className="label">worn score, mean and 5–95&#8239;%, by {unit}</p>
          <SpanPlot
            name={`worn in ${slot}, by ${unit}`}
            says={`Worn score in the end ${figures(kept.worn.mean)}`}
            unit={unit}
            points={points}
            exact={(exact?.along ?? [])
              .filter((one) => points.some((other) => other.at === one.at + shift))
              .map((one) => ({ ...one, at: one.at + shift }))}
          />
        </div>
        {exact?.chances.length ? (
          <div>
            <p className="label">chance that the {unit} of a number is an upgrade, %, exactly</p>
            <SpanPlot
              name={`upgrades in ${slot}`}
              says={`The next is an upgrade in ${percent(exact.next)} of 100`}
              unit={unit}
              head="chance of an upgrade, %"
              isLog
              written={(value) => `${figures(value)} %`}
              points={exact.chances.map(([at, chance]) => ({ at, mean: 100 * chance }))}
            />
          </div>
        ) : (
          <div>
            <p className="label">upgrades since the mark before, by {unit}</p>
            <SpanPlot
              name={`upgrades in ${slot}`}
              says={`${figures(kept.upgrades.mean)} upgrades in all`}
              unit={unit}
              head="upgrades since the mark before"
              points={points.map((one) => ({ at: one.at, mean: one.chance ?? one.upgrades }))}
              ticks={upgradesOfMedian(points)}
            />
          </div>
        )}
        {deep?.depths && (
          <div>
            <p className="label">
              the same at every {word}, after {whole(subject.events)}
            </p>
            <SpanPlot
              name={`worn in ${slot}, by ${word}`}
              says="Worn score by depth"
              unit={word}
              points={deep.depths.flatMap((one) => {
                const told = one.slots[slot]
                return told ? [{ at: one.depth, ...told }] : []
              })}
            />
          </div>
        )}
        <Tiers kept={kept} />
      </div>
    </section>
  )
}

const wordOf = (kind: keyof typeof EVENT_OF | undefined) => (kind ? EVENT_OF[kind].one : 'event')

/** Where the median player's upgrades fall: where the sum of upgrades passes 0.5, 1.5, ... */
function upgradesOfMedian(points: { at: number; upgrades: number }[]): number[] {
  const found: number[] = []
  let sum = 0
  for (const one of points) {
    const before = Math.floor(sum + 0.5)
    sum += one.upgrades
    if (Math.floor(sum + 0.5) > before) found.push(one.at)
  }
  return found
}

function Sentence({
  slot,
  subject,
  kept,
  exact,
  unit,
}: {
  slot: string
  subject: Subject
  kept: SlotKept
  exact: SlotExactly | undefined
  unit: string
}) {
  const after = exact?.after
  return (
    <p className="text-body">
      <b className="num">{figures((after ?? kept.worn).mean)}</b> is worn in the end,{' '}
      <span className="num">
        {figures((after ?? kept.worn).p05)} to {figures((after ?? kept.worn).p95)}
      </span>{' '}
      for nine in ten; after{' '}
      <Hold
        {...(subject.source !== null && { source: subject.source })}
        wish={
          after && subject.source !== null
            ? { figure: 'upgrades', slot, events: subject.events, wanted: after.upgrades }
            : null
        }
      >
        {figures(after?.upgrades ?? kept.upgrades.mean)}
      </Hold>{' '}
      upgrades, the first{' '}
      {kept.first_50 === null ? (
        'for fewer than half'
      ) : (
        <>
          by {unit === 'stop' ? 'event' : unit}{' '}
          <b className="num">{whole(exact?.first_50 ?? kept.first_50)}</b> for half
        </>
      )}
      {exact?.next !== null && exact?.next !== undefined && (
        <>
          ; the next {unit} is one in <b className="num">{figures(1 / exact.next)}</b>
        </>
      )}
      .{' '}
      <span className="label" role="note">
        {after ? 'exact' : 'played'}
        {kept.worn.z !== null && kept.worn.z !== undefined && `, z ${kept.worn.z.toFixed(2)}`}
      </span>
    </p>
  )
}

function Tiers({ kept }: { kept: SlotKept }) {
  const parts = useGame((state) => state.parts)
  const tiers = [...parts.tier.values()].filter((tier) => (kept.tiers[tier.id] ?? 0) > 0.0005)
  const nothing = 1 - tiers.reduce((sum, tier) => sum + (kept.tiers[tier.id] ?? 0), 0)
  return (
    <div className="self-end">
      <p className="label mb-1">what is worn in the end, of 100 players</p>
      <div className="flex h-5 w-full overflow-hidden rounded-sm border border-hair">
        {tiers.map((tier) => (
          <span
            key={tier.id}
            style={{ width: `${100 * (kept.tiers[tier.id] ?? 0)}%`, background: tier.colour }}
          />
        ))}
      </div>
      <p className="mt-1 flex flex-wrap gap-x-3 text-note">
        {tiers.map((tier) => (
          <span key={tier.id} className="inline-flex items-center gap-1">
            <TierMark tier={tier} size={11} />
            {tier.name} <span className="num">{percent(kept.tiers[tier.id])}</span>
          </span>
        ))}
        {nothing > 0.0005 && (
          <span className="text-muted">
            nothing <span className="num">{percent(nothing)}</span>
          </span>
        )}
      </p>
      {kept.never_worn !== null && (
        <p className="text-note text-muted">
          <span className="num">{percent(kept.never_worn)}&#8239;%</span> of what comes for it is
          never worn.
        </p>
      )}
    </div>
  )
}

/** What a point of each stat counts in a score. */
function Scores() {
  const parts = useGame((state) => state.parts)
  const stats = new Set(
    [...parts.item.values()].flatMap((item) => (item.slot ? Object.keys(item.stats ?? {}) : [])),
  )
  const scores = parts.settings.scores ?? {}
  const save = (stat: string, weight: number) =>
    changeSettings(`score of ${stat}`, { scores: { ...scores, [stat]: weight } })
  return (
    <p className="py-3 text-note text-muted" aria-label="scores">
      A point of{' '}
      {[...stats].map((stat, at) => (
        <span key={stat}>
          {at > 0 && ', of '}
          {stat} scores{' '}
          <EditText
            label={`score of ${stat}`}
            text={entered(scores[stat] ?? 1)}
            className="choice num text-ink"
            inputClass="num w-16"
            onCommit={(text) => {
              const weight = typedNumber(text)
              return weight === null ? { message: 'a score is a number' } : save(stat, weight)
            }}
          />
        </span>
      ))}
      ; the best sum in a slot is worn.
    </p>
  )
}

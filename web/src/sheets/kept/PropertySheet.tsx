// A property: what players begin with, its bounds, all that adds to it; and how it fares along a route.
import { useKept } from '@/game/queries'
import type { Item, Property } from '@/api/types'
import { show, useGame } from '@/game/store'
import { itemByName } from '@/game/words'
import { SpanPlot } from '@/plots/Span'
import { Findings } from '@/sheets/Findings'
import { Title } from '@/sheets/Title'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent, signed } from '@/text/format'
import { SetMark, TierMark } from '@/ui/Marks'
import { typedNumber } from '@/text/numbers'
import { BuiltUp } from './BuiltUp'
import { changeEffect, EffectAmounts } from './EffectAmounts'
import { change } from '@/game/edit'
import { asked, useSubject } from './subject'
import { SubjectChoice } from './SubjectChoice'

export function PropertySheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const subject = useSubject()
  const { data, error } = useKept(asked(subject))
  const one = parts.property.get(id)
  if (!one) return <p className="p-6 text-muted">This property is gone.</p>
  const told = data?.properties?.[id]
  const unit = subject?.route ? 'stop' : 'event'
  return (
    <div className="px-5 pb-10 pt-3">
      <header className="border-b border-hair pb-2">
        <Title
          of="property"
          id={id}
          name={one.name}
          onRename={(name) => change('property', one.id, 'renamed', { name })}
        />
        <Sentence one={one} />
      </header>
      <Findings kind="property" id={id} />
      <div className="grid grid-cols-[minmax(280px,360px)_1fr] gap-8 pt-3">
        <div>
          <Adders one={one} />
          <BuiltUp one={one} />
        </div>
        <div>
          {subject && (
            <p className="text-note text-muted">
              Told of <SubjectChoice subject={subject} />
            </p>
          )}
          {error && <p className="text-bad">{error.message}</p>}
          {subject && data && !told && (
            <p className="py-2 text-muted">Nothing that adds to it comes here.</p>
          )}
          {told && (
            <>
              <p className="mt-1 text-lead leading-6">
                It comes to <b className="num">{figures(told.mean)}</b>,{' '}
                <span className="num">
                  {figures(told.p05)} to {figures(told.p95)}
                </span>{' '}
                for nine in ten
                {atBound('at its most', told.at_most)}
                {atBound('at its least', told.at_least)}
                {told.beyond > 0 && (
                  <>
                    ; <b className="num">{figures(told.beyond)}</b> is cut off by its bounds on
                    average
                  </>
                )}
                . <span className="label">played</span>
              </p>
              <div className="mt-2 max-w-[460px]">
                <p className="label">mean and 5–95&#8239;%, by {unit}; dashed: its bounds</p>
                <SpanPlot
                  name={`${one.name}, by ${unit}`}
                  says={`${one.name} in the end ${figures(told.mean)}`}
                  unit={unit}
                  height={170}
                  points={told.along.map((mark) => ({
                    ...mark,
                    at: mark.at + (subject?.route ? 1 : 0),
                  }))}
                  bounds={[one.least, one.most]}
                />
              </div>
            </>
          )}
        </div>
      </div>
    </div>
  )
}

const atBound = (words: string, share: number | null) =>
  share ? (
    <>
      , <b className="num">{percent(share)}&#8239;%</b> {words}
    </>
  ) : null

function Sentence({ one }: { one: Property }) {
  const bound = (key: 'least' | 'most') => (
    <EditText
      label={`${key} of ${one.name}`}
      text={typeof one[key] === 'number' ? entered(one[key]) : 'no end'}
      className="choice num text-ink"
      inputClass="num w-20"
      onCommit={(text) => {
        if (/^\s*(no|$)/i.test(text)) return change('property', one.id, key, { [key]: null })
        const value = typedNumber(text)
        return value === null
          ? { message: 'a number, or no end' }
          : change('property', one.id, key, { [key]: value })
      }}
    />
  )
  return (
    <p className="text-note text-muted">
      Begins at{' '}
      <EditText
        label={`base of ${one.name}`}
        text={entered(one.base)}
        className="choice num text-ink"
        inputClass="num w-20"
        onCommit={(text) => {
          const base = typedNumber(text)
          return base === null
            ? { message: 'a number' }
            : change('property', one.id, 'base', { base })
        }}
      />
      , never below {bound('least')} nor above {bound('most')}.
    </p>
  )
}

/** Items and sets that add to it, each with its amount. */
function Adders({ one }: { one: Property }) {
  const parts = useGame((state) => state.parts)
  const items = [...parts.item.values()].filter((item) =>
    (item.effects ?? []).some((effect) => effect.property === one.id),
  )
  const sets = [...parts.set.values()].filter((set) =>
    set.effects.some((effect) => effect.property === one.id),
  )
  return (
    <section aria-label="what adds to it">
      <p className="flex items-baseline justify-between">
        <span className="head">What adds to it</span>
        <span className="label">each unit, up to so many</span>
      </p>
      <ul className="divide-y divide-hair/70">
        {items.map((item) => (
          <ItemAdds key={item.id} item={item} property={one.id} />
        ))}
        {sets.map((set) => (
          <li key={set.id} className="flex items-center gap-2 py-1">
            <SetMark />
            <button
              type="button"
              className="name truncate text-item hover:bg-gold-wash"
              onClick={() => show({ kind: 'set', id: set.id })}
            >
              {set.name}
            </button>
            <span className="label">complete</span>
            <span className="ml-auto">
              <EditText
                label={`what ${set.name} adds`}
                text={entered(amountOf(set.effects, one.id))}
                show={signed(amountOf(set.effects, one.id))}
                className="choice num text-ink"
                inputClass="num w-16"
                onCommit={(text) => {
                  const amount = typedNumber(text)
                  if (amount === null) return { message: 'a number' }
                  return change('set', set.id, 'what it adds', {
                    effects: set.effects.map((effect) =>
                      effect.property === one.id ? { ...effect, amount } : effect,
                    ),
                  })
                }}
              />
            </span>
          </li>
        ))}
      </ul>
      {items.length + sets.length === 0 && (
        <p className="py-1 text-muted">Nothing yet: type the name of an item that adds to it.</p>
      )}
      <EditText
        label="another item that adds to it"
        text=""
        show="+ an item"
        className="label py-1 hover:text-ink"
        inputClass="w-52"
        onCommit={(text) => {
          if (!text.trim()) return null
          const item = itemByName(parts, text)
          if (!item) return { message: `there is no item “${text.trim()}”` }
          if (items.includes(item)) return { message: `${item.name} adds to it already` }
          return changeEffect(item.id, one.id, { amount: 5, units: 1 })
        }}
      />
    </section>
  )
}

const amountOf = (effects: { property: string; amount: number }[], property: string) =>
  effects.find((effect) => effect.property === property)?.amount ?? 0

function ItemAdds({ item, property }: { item: Item; property: string }) {
  const parts = useGame((state) => state.parts)
  return (
    <li className="flex items-center gap-2 py-1">
      <TierMark tier={parts.tier.get(item.tier)} />
      <button
        type="button"
        className="name truncate text-item hover:bg-gold-wash"
        onClick={() => show({ kind: 'item', id: item.id })}
      >
        {item.name}
      </button>
      <EffectAmounts item={item} property={property} />
    </li>
  )
}

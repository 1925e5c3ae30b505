// The stats of an item: its ranges, how they grow with depth, and how far other tiers overlap.
import { useState } from 'react'
import type { EntryIn, Item, ItemView } from '@/api/types'
import { change, type Answer } from '@/game/edit'
import { useGame } from '@/game/store'
import { CurveChoice } from '@/sheets/CurveChoice'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent } from '@/text/format'
import { TierMark } from '@/ui/Marks'

export function Stats({
  view,
  item,
  depth,
  drawn,
  onDraw,
}: {
  view: ItemView
  item: Item
  depth: number
  /** The stat that is drawn over all depths, if one is. */
  drawn: string | null
  onDraw: (stat: string | null) => void
}) {
  const row = view.depths.indexOf(depth)
  const stats = item.stats ?? {}
  const save = (label: string, changed: Partial<Item>, more?: EntryIn[]) =>
    change('item', item.id, label, changed, more)
  const changeStat = (name: string, range: Stat | null, more?: EntryIn[]) => {
    const kept = Object.entries(stats).flatMap(([other, old]): [string, Stat][] =>
      other !== name ? [[other, old]] : range ? [[name, range]] : [],
    )
    const added = range && !(name in stats) ? { [name]: range } : {}
    return save(name, { stats: { ...Object.fromEntries(kept), ...added } }, more)
  }
  return (
    <section aria-label="stats">
      <p className="mb-0.5 flex items-baseline justify-between">
        <span className="head">Stats</span>
        <span className="label">
          slot{' '}
          <EditText
            label="slot"
            text={item.slot ?? 'none'}
            className="choice text-ink"
            onCommit={(text) =>
              save('slot', { slot: !text.trim() || text.trim() === 'none' ? null : text.trim() })
            }
          />
        </span>
      </p>
      {Object.entries(stats).map(([name, range]) => (
        <div key={name} className="mb-1.5">
          <StatRow
            {...{ name, range, item }}
            ends={{ low: view.stats[name]?.low[row], high: view.stats[name]?.high[row] }}
            isDrawn={drawn === name}
            onDraw={() => onDraw(drawn === name ? null : name)}
            onChange={(changed, more) => changeStat(name, changed, more)}
          />
          <Overlap view={view} item={item} stat={name} row={row} />
        </div>
      ))}
      <NewStat
        taken={stats}
        onAdd={(name) => void changeStat(name, { min: 1, max: 2, curve: null })}
      />
    </section>
  )
}

function StatRow({
  name,
  range,
  item,
  ends,
  isDrawn,
  onDraw,
  onChange,
}: {
  name: string
  range: Stat
  item: Item
  ends: { low: number | undefined; high: number | undefined }
  isDrawn: boolean
  onDraw: () => void
  onChange: (range: Stat | null, more?: EntryIn[]) => Answer
}) {
  return (
    <div className="flex items-baseline gap-1.5">
      <button
        type="button"
        aria-pressed={isDrawn}
        title={`${name}: draw it over all depths`}
        className={`max-w-[90px] shrink-0 truncate ${isDrawn ? 'font-semibold underline decoration-gold decoration-2' : 'underline decoration-hair underline-offset-2'}`}
        onClick={onDraw}
      >
        {name}
      </button>
      <EditText
        label={`range of ${name}`}
        text={`${entered(range.min)} to ${entered(range.max)}`}
        className="choice num whitespace-nowrap text-ink"
        onCommit={(text) => {
          const typed = typedSpan(text)
          return typed ? onChange({ ...range, ...typed }) : { message: 'a range is written 4 to 9' }
        }}
      />
      <CurveChoice
        of={name}
        owner={`${name} of ${item.name}`}
        value={range.curve}
        onChange={(curve, more) => onChange({ ...range, curve }, more)}
      />
      <span
        className="num ml-auto whitespace-nowrap"
        title="at this depth, with its curve and its tier's factor"
      >
        {figures(ends.low)} to {figures(ends.high)}
      </span>
      <button
        type="button"
        aria-label={`take out ${name}`}
        className="px-0.5 text-muted hover:text-bad"
        onClick={() => void onChange(null)}
      >
        ×
      </button>
    </div>
  )
}

type Stat = NonNullable<Item['stats']>[string]

/** "4 to 9", "4-9" or "4" as the two ends. */
function typedSpan(text: string): { min: number; max: number } | null {
  const match = /^\s*(-?[\d.]+)\s*(?:(?:to|–|-)\s*(-?[\d.]+))?\s*$/.exec(text)
  if (!match) return null
  const min = Number(match[1])
  const max = Number(match[2] ?? match[1])
  return Number.isFinite(min) && Number.isFinite(max) && min <= max ? { min, max } : null
}

function NewStat({ taken, onAdd }: { taken: object; onAdd: (name: string) => void }) {
  const [name, setName] = useState('')
  return (
    <form
      className="mb-2"
      onKeyDown={(event) => event.stopPropagation()}
      onSubmit={(event) => {
        event.preventDefault()
        const wanted = name.trim()
        if (!wanted || wanted in taken) return
        setName('')
        onAdd(wanted)
      }}
    >
      <input
        aria-label="name of a new stat"
        placeholder="+ add a stat: its name, Enter"
        className="field w-48"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
    </form>
  )
}

/** How far tiers overlap: beside the same stat of a neighbouring tier, and beside other things for its
 * slot. */
function Overlap({
  view,
  item,
  stat,
  row,
}: {
  view: ItemView
  item: Item
  stat: string
  row: number
}) {
  const parts = useGame((state) => state.parts)
  const ladder = [...parts.tier.keys()]
  return (
    <div className="pl-3 text-muted">
      {view.upsets
        .filter((upset) => upset.stat === stat)
        .map(({ tier, chance }) => {
          const above = ladder.indexOf(tier) > ladder.indexOf(item.tier)
          const name = <span className="text-ink">{parts.tier.get(tier)?.name}</span>
          return (
            <p key={tier} className="flex items-baseline gap-1.5">
              <TierMark tier={parts.tier.get(tier)} size={11} />
              <span title="the same range, times the other tier's factor">
                {above ? 'beats' : 'loses to'} its like in {name}
              </span>
              <span className="num ml-auto text-ink">{percent(chance)}&#8239;%</span>
            </p>
          )
        })}
      {view.rivals
        .filter((rival) => rival.stat === stat)
        .map((rival) => {
          const other = parts.item.get(rival.item)
          return (
            <p key={rival.item} className="flex items-baseline gap-1.5">
              <TierMark tier={parts.tier.get(other?.tier ?? '')} size={11} />
              <span>
                beats <span className="name text-ink">{other?.name}</span> here
              </span>
              <span className="num ml-auto text-ink">{percent(rival.beats[row])}&#8239;%</span>
            </p>
          )
        })}
    </div>
  )
}

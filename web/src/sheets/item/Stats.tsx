// The stats of an item: its ranges, how they grow with depth, and how far other tiers overlap.
import { useState } from 'react'
import type { Item, ItemView } from '@/api/types'
import { useGame } from '@/game/store'
import { commit } from '@/game/sync'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent } from '@/ui/format'
import { TierMark } from '@/ui/Marks'

export function Stats({ view, item, depth }: { view: ItemView; item: Item; depth: number }) {
  const parts = useGame((state) => state.parts)
  const row = view.depths.indexOf(depth)
  const stats = item.stats ?? {}
  const save = (label: string, changed: Partial<Item>) =>
    commit(`${label}, ${item.name}`, [
      { kind: 'item', id: item.id, body: { ...item, ...changed } as never },
    ])
  const change = (name: string, range: Stat | null) => {
    const rest = Object.fromEntries(Object.entries(stats).filter(([other]) => other !== name))
    return save(name, { stats: range ? { ...stats, [name]: range } : rest })
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
        <div key={name} className="flex items-baseline gap-1.5">
          <span className="w-14 shrink-0 truncate">{name}</span>
          <EditText
            label={`range of ${name}`}
            text={`${entered(range.min)} to ${entered(range.max)}`}
            className="choice num whitespace-nowrap text-ink"
            onCommit={(text) => {
              const typed = typedSpan(text)
              return typed
                ? change(name, { ...range, ...typed })
                : { message: 'a range is written 4 to 9' }
            }}
          />
          <select
            aria-label={`curve of ${name}`}
            className="field w-24"
            value={range.curve ?? ''}
            onChange={(event) => void change(name, { ...range, curve: event.target.value || null })}
          >
            <option value="">no curve</option>
            {[...parts.curve.values()].map((curve) => (
              <option key={curve.id} value={curve.id}>
                × {curve.name}
              </option>
            ))}
          </select>
          <span
            className="num ml-auto whitespace-nowrap"
            title="at this depth, with its curve and its tier's factor"
          >
            {figures(view.stats[name]?.low[row])} to {figures(view.stats[name]?.high[row])}
          </span>
          <button
            type="button"
            aria-label={`take out ${name}`}
            className="px-0.5 text-muted hover:text-bad"
            onClick={() => void change(name, null)}
          >
            ×
          </button>
        </div>
      ))}
      <NewStat taken={stats} onAdd={(name) => void change(name, { min: 1, max: 2, curve: null })} />
      <Rivals view={view} row={row} />
    </section>
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

/** Items of other tiers for the same slot: how far the tiers overlap. */
function Rivals({ view, row }: { view: ItemView; row: number }) {
  const parts = useGame((state) => state.parts)
  return (
    <>
      {view.rivals.map((rival) => {
        const other = parts.item.get(rival.item)
        return (
          <p key={`${rival.item}/${rival.stat}`} className="flex items-baseline gap-1.5">
            <span className="text-muted">its {rival.stat} beats</span>
            <TierMark tier={parts.tier.get(other?.tier ?? '')} size={11} />
            <span className="name">{other?.name}</span>
            <span className="num ml-auto">{percent(rival.beats[row])}&#8239;%</span>
          </p>
        )
      })}
    </>
  )
}

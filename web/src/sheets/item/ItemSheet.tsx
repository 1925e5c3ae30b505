// One item: every way to get it, by depth; where to look for it; what it is like there.
import { useItemView } from '@/api/queries'
import { useState } from 'react'
import type { Item, ItemView, TierView } from '@/api/types'
import { commit } from '@/game/sync'
import { EditText } from '@/ui/EditText'
import { show, useGame } from '@/game/store'
import { lineName } from '@/game/words'
import { DepthFrame, shownDepths, useDepthScale } from '@/plots/DepthFrame'
import { entered, figures, percent } from '@/ui/format'
import { SourceMark, TierMark } from '@/ui/Marks'

const COLUMN = 82

export function ItemSheet({ id }: { id: string }) {
  const { parts, depth } = useGame()
  const { data } = useItemView(id)
  const item = parts.item.get(id)
  if (!item) return <p className="p-6 text-muted">This item is gone.</p>
  const tier = parts.tier.get(item.tier)
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1.5">
        <div className="flex items-baseline gap-2">
          <TierMark tier={tier} />
          <span className="name text-[24px] leading-8">{item.name}</span>
          <span className="text-[12px] text-muted">
            {tier && (
              <button
                type="button"
                className="underline decoration-hair underline-offset-2 hover:text-ink"
                onClick={() => show({ kind: 'tier', id: tier.id })}
              >
                {tier.name}
              </button>
            )}
            , worth <b className="num text-ink">{figures(item.value)}</b> {parts.settings.currency}
          </span>
          <button
            type="button"
            className="label ml-auto underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => show({ kind: 'items', id: 'catalogue' })}
          >
            all items
          </button>
        </div>
        {data && <Where view={data} />}
      </header>
      <DepthFrame>
        <div className="flex gap-6 pl-3">
          {data && <BySource view={data} />}
          {data && (
            <div
              className="relative z-10 w-[360px] shrink-0 bg-paper text-[12px]"
              style={{ marginTop: -18 }}
            >
              <Ways view={data} depth={depth} />
              <Stats view={data} item={item} depth={depth} />
            </div>
          )}
        </div>
      </DepthFrame>
    </div>
  )
}

export function Where({ view }: { view: TierView }) {
  const parts = useGame((state) => state.parts)
  const word = parts.settings.words?.depth ?? 'depth'
  const name = (id: string) => parts.source.get(id)?.name ?? id
  if (view.first === null) return <p className="text-[12.5px] text-bad">Nobody can get it.</p>
  return (
    <p className="text-[12.5px]">
      First at {word} <b className="num">{view.first}</b>.
      {view.best_event && (
        <>
          {' '}
          Surest from <b className="name">{name(view.best_event.source)}</b> at{' '}
          <span className="num">{view.best_event.depth}</span>:{' '}
          <b className="num">{percent(view.best_event.figure)}&#8239;%</b>.
        </>
      )}
      {view.best_hour && (
        <>
          {' '}
          Most an hour from <b className="name">{name(view.best_hour.source)}</b> at{' '}
          <span className="num">{view.best_hour.depth}</span>:{' '}
          <b className="num">{figures(view.best_hour.figure)}</b>.
        </>
      )}
      {view.gaps.map(([low, high]) => (
        <span key={low} className="text-waiting">
          {' '}
          Unobtainable {low === high ? `at ${low}` : `between ${low} and ${high}`}.
        </span>
      ))}
    </p>
  )
}

/** One column a source: one in how many events, by depth. */
export function BySource({ view }: { view: TierView }) {
  const { parts, depth } = useGame()
  const scale = useDepthScale()
  const most = Math.max(...view.sources.flatMap((one) => one.p_any), 1e-300)
  return (
    <table
      aria-label="one in how many, by source and depth"
      className="num relative shrink-0 text-[11px]"
      style={{ marginTop: -34, width: 30 + COLUMN * view.sources.length }}
    >
      <thead>
        <tr style={{ height: 34 }} className="align-bottom">
          <th style={{ width: 30 }} />
          {view.sources.map((one) => (
            <th key={one.id} style={{ width: COLUMN }} className="px-1 text-right font-normal">
              <button
                type="button"
                className="name inline-flex items-end gap-1 text-[11px] leading-[1.05] text-muted hover:text-ink"
                onClick={() => show({ kind: 'source', id: one.id })}
              >
                <span className="line-clamp-2">{parts.source.get(one.id)?.name}</span>
                <SourceMark kind={parts.source.get(one.id)?.kind ?? 'enemy'} />
              </button>
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {shownDepths(scale, depth).map((d) => (
          <tr
            key={d}
            className={`absolute z-10 flex items-center bg-paper ${d === depth ? 'font-semibold' : ''}`}
            style={{ top: 34 + scale.y(d) - 7.5, height: 15 }}
          >
            <td style={{ width: 30 }} className="pr-1.5 text-right text-muted">
              {d}
            </td>
            {view.sources.map((one) => {
              const p = one.p_any[d - scale.from] ?? 0
              return (
                <td
                  key={one.id}
                  style={{
                    width: COLUMN,
                    background: `color-mix(in srgb, #2f8c7f ${Math.round((30 * p) / most)}%, #f6f1e6)`,
                  }}
                  title={`${percent(p)} %, ${figures(one.hour[d - scale.from])} an hour`}
                  className="px-1 text-right leading-[15px]"
                >
                  {p > 0 ? `1 in ${figures(1 / p)}` : '·'}
                </td>
              )
            })}
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Ways({ view, depth }: { view: ItemView; depth: number }) {
  const parts = useGame((state) => state.parts)
  const row = view.depths.indexOf(depth)
  const ways = view.ways
    .map((way) => ({ ...way, here: way.mean[row] ?? 0 }))
    .sort((a, b) => b.here - a.here)
  return (
    <section aria-label="ways to it" className="mb-4">
      <p className="mb-0.5 flex items-baseline justify-between">
        <span className="head">Ways to it</span>
        <span className="label">per 100 events, here</span>
      </p>
      {ways.slice(0, 14).map((way) => {
        const last = parts.table.get(way.path.at(-1)?.[1] ?? '')
        const line = last?.lines.find((one) => one.id === way.line)
        return (
          <button
            key={`${way.source}/${way.drop}/${way.path.join('/')}/${way.line}`}
            type="button"
            className={`flex w-full items-baseline gap-2 text-left hover:bg-gold-wash ${way.here > 0 ? '' : 'text-muted'}`}
            onClick={() => show({ kind: 'source', id: way.source })}
          >
            <span className="min-w-0 flex-1 truncate">
              <span className="name">{parts.source.get(way.source)?.name}</span>
              <span className="text-muted">
                {' › '}
                {way.path.map(([kind, id]) => parts[kind].get(id)?.name).join(' › ')}
                {line && line.yields.some((given) => given.pool)
                  ? ` › ${lineName(parts, line)}`
                  : ''}
              </span>
            </span>
            <span className="num">{way.here > 0 ? figures(100 * way.here) : '·'}</span>
          </button>
        )
      })}
      {ways.length > 14 && <p className="label">{ways.length - 14} more</p>}
      {ways.length === 0 && <p className="text-muted">No table gives it.</p>}
    </section>
  )
}

function Stats({ view, item, depth }: { view: ItemView; item: Item; depth: number }) {
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

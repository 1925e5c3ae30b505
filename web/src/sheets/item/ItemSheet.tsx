// One item: every way to get it, by depth; where to look for it; what it is like there.
import { Pending } from '@/ui/Pending'
import { useState } from 'react'
import { useItemView } from '@/game/queries'
import type { ItemView, Line } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show, useGame, useGamePart } from '@/game/store'
import { lineName, quantityText } from '@/game/words'
import { DepthFrame } from '@/plots/DepthFrame'
import { useTelling } from '@/sheets/depth/telling'
import { figures } from '@/text/format'
import { BySource, FoundHead, useBySource } from './BySource'
import { Effects } from './Effects'
import { StatOverDepth } from './StatOverDepth'
import { Stats } from './Stats'

const HEAD = 34 // px for the headings of what stands over depth

export function ItemSheet({ id }: { id: string }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const telling = useTelling('one_in')
  const view = useItemView(id, telling.figure === 'cv')
  const { data } = view
  const [drawn, setDrawn] = useState<string | null>(null)
  const item = parts.item.get(id)
  const told = useBySource(data, telling, item?.value ?? 0)
  if (!item) return <p className="p-6 text-muted">This item is gone.</p>
  const tier = parts.tier.get(item.tier)
  return (
    <div className="relative h-full">
      <FoundHead
        {...{ tier, telling, told }}
        name={item.name}
        view={data}
        about={
          <>
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
          </>
        }
      />
      <DepthFrame>
        <div className="flex h-full gap-6 pl-3">
          {!data && <Pending of={view} what="where it comes from" />}
          {data && (
            <div
              className="flex min-w-0 gap-3 overflow-x-auto overflow-y-hidden"
              style={{ marginTop: -HEAD, paddingTop: HEAD }}
            >
              {drawn && <StatOverDepth view={data} item={item} stat={drawn} />}
              <BySource told={told} telling={telling} />
            </div>
          )}
          {data && (
            <div
              className="relative z-10 w-[360px] shrink-0 overflow-y-auto bg-paper pr-5 text-small"
              style={{ marginTop: -18 }}
            >
              <Ways view={data} depth={depth} />
              <Stats view={data} item={item} depth={depth} drawn={drawn} onDraw={setDrawn} />
              <Effects item={item} />
            </div>
          )}
        </div>
      </DepthFrame>
    </div>
  )
}

function Ways({ view, depth }: { view: ItemView; depth: number }) {
  const parts = useGame((state) => state.parts)
  const row = view.depths.indexOf(depth)
  const ways = view.ways
    .map((way) => ({ ...way, here: way.mean[row] ?? 0 }))
    .sort((a, b) => b.here - a.here)
  const isOneOfSeveral = (way: { source: string; path: string[][] }) =>
    ways.filter((other) => pathOf(other) === pathOf(way)).length > 1
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
                {line && lastStep(parts, line, isOneOfSeveral(way))}
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

const pathOf = ({ source, path }: { source: string; path: string[][] }) =>
  `${source}/${path.map((step) => step.join(':')).join('/')}`

/** The line, where the tables alone do not say which: its pool, or how many it gives. */
function lastStep(parts: Parts, line: Line, isOneOfSeveral: boolean): string {
  if (line.yields.some((given) => given.pool)) return ` › ${lineName(parts, line)}`
  const many = line.yields.map((given) => quantityText(given.quantity)).join(' and ')
  return isOneOfSeveral ? ` › ${many}` : ''
}

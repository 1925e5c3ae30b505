// One tier: where anything of it is found, by source and depth, and which items it holds.
import { Pending } from '@/ui/Pending'
import { useTierView } from '@/game/queries'
import { show, useGamePart } from '@/game/store'
import { DepthFrame } from '@/plots/DepthFrame'
import { useTelling } from '@/sheets/depth/telling'
import { figures } from '@/text/format'
import { BySource, FoundHead, useBySource } from './BySource'

export function TierSheet({ id }: { id: string }) {
  const { parts } = useGamePart('parts')
  const telling = useTelling('one_in')
  const view = useTierView(id, telling.figure === 'cv')
  const { data } = view
  const told = useBySource(data, telling, null)
  const tier = parts.tier.get(id)
  if (!tier) return <p className="p-6 text-muted">This tier is gone.</p>
  const items = [...parts.item.values()].filter((item) => item.tier === id)
  return (
    <div className="relative h-full">
      <FoundHead
        {...{ tier, telling, told }}
        name={`Any ${tier.name}`}
        view={data}
        about={`${items.length} ${items.length === 1 ? 'item' : 'items'}`}
        without={['value']}
      />
      <DepthFrame>
        <div className="flex gap-3 pl-3">
          <section
            aria-label="its items"
            className="relative z-10 ml-2 w-[150px] shrink-0 bg-paper text-small"
            style={{ marginTop: -18 }}
          >
            <p className="head">Its items</p>
            {items.map((item) => (
              <button
                key={item.id}
                type="button"
                className="flex w-full justify-between py-px text-left hover:bg-gold-wash"
                onClick={() => show({ kind: 'item', id: item.id })}
              >
                <span className="name text-body">{item.name}</span>
                <span className="num text-muted">{figures(item.value)}</span>
              </button>
            ))}
          </section>
          {!data && <Pending of={view} what="where it comes from" />}
          {data && <BySource told={told} telling={telling} />}
        </div>
      </DepthFrame>
    </div>
  )
}

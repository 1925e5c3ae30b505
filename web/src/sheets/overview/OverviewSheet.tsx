// The whole game on one sheet: what one asks first of it, each figure a way to where it is made.
import { useOverview } from '@/game/queries'
import { show, useGame } from '@/game/store'
import { Pending } from '@/ui/Pending'
import { Along } from './Along'
import { Collection } from './Collection'
import { Coverage } from './Coverage'
import { Health } from './Health'
import { Money } from './Money'

export function OverviewSheet() {
  const parts = useGame((state) => state.parts)
  const id = useGame((state) => state.id)
  const overview = useOverview()
  const { data } = overview
  if (!parts.source.size) return <Empty />
  return (
    <div className="overview px-5 pb-10 pt-3">
      <header className="flex items-baseline gap-3 border-b border-hair pb-1">
        <h1 className="name text-title leading-10">{parts.settings.name}</h1>
        <span className="text-muted">the whole game on one sheet</span>
        <span className="ml-auto flex gap-2 print:hidden">
          <button type="button" className="plain-button" onClick={() => window.print()}>
            Print
          </button>
          <a className="plain-button" href={`/api/games/${id}/export/overview`} download>
            Save as a page
          </a>
        </span>
      </header>
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(280px,340px)] gap-x-7 pt-3 max-[1100px]:block">
        <div>
          {!data && <Pending of={overview} what="the whole game" />}
          {data && <Along data={data} />}
          <Collection />
        </div>
        <div>
          <Health />
          {data && <Money data={data} />}
        </div>
      </div>
      {data && <Coverage data={data} />}
    </div>
  )
}

/** A game in which nothing gives anything yet: what comes first. */
function Empty() {
  const parts = useGame((state) => state.parts)
  const step = (done: boolean, name: string, says: string, go: () => void) => (
    <li className="flex items-baseline gap-3 py-1">
      <span aria-hidden className={done ? 'text-verdigris' : 'text-muted'}>
        {done ? '✓' : '○'}
      </span>
      <button
        type="button"
        className="w-32 text-left font-semibold hover:bg-gold-wash"
        onClick={go}
      >
        {name}
      </button>
      <span className="text-muted">{says}</span>
    </li>
  )
  const items = () => show({ kind: 'items', id: 'catalogue' })
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">{parts.settings.name}</h1>
      <p className="text-muted">Nothing gives anything yet. Most begin in this order:</p>
      <ol className="pt-2 text-body">
        {step(
          parts.item.size > 0,
          'Items',
          'and their tiers; paste them from a spreadsheet',
          items,
        )}
        {step(parts.table.size > 0, 'Tables', 'what can come of one roll: + on the shelf', items)}
        {step(false, 'Sources', 'which enemy, chest, node or parcel rolls which table', items)}
      </ol>
    </div>
  )
}

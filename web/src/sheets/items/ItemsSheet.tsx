// The ladder of tiers and the catalogue of items, each in a grid.
import { useState } from 'react'
import { api } from '@/api/client'
import type { EntryIn, Item, Tier } from '@/api/types'
import { freshItem, freshTier } from '@/game/fresh'
import { freshId, type Kind } from '@/game/parts'
import { commit } from '@/game/sync'
import { show, useGame } from '@/game/store'
import { LeavingQuestion, type Leaving } from '@/sheets/LeavingQuestion'
import { Grid } from '@/ui/grid/Grid'
import { itemColumns, tierColumns } from './columns'

export function ItemsSheet() {
  const parts = useGame((state) => state.parts)
  const [leaving, setLeaving] = useState<Leaving | null>(null)
  const tiers = [...parts.tier.values()]
  const items = [...parts.item.values()]
  const remove = async (kind: Kind, gone: { id: string; name: string }[]) => {
    const { id } = useGame.getState()
    for (const one of gone) {
      const uses = await api.uses(id, kind, one.id)
      if (uses.length) return setLeaving({ kind, ...one, uses })
    }
    const entries = gone.map((one) => ({ kind, id: one.id, body: null }))
    await commit(`removed ${gone.map((one) => one.name).join(', ')}`, entries)
  }
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-[32px] leading-10">Items</h1>
      <section className="pt-2" aria-label="tiers">
        <h2 className="head">The ladder, lowest first</h2>
        <div className="max-w-[560px]">
          <Grid<Tier>
            label="tiers"
            noun="tier"
            rows={tiers}
            columns={tierColumns(parts)}
            idOf={(tier) => tier.id}
            nameOf={(tier) => tier.name}
            onRows={(label, rows) => commit(label, entriesOf('tier', tiers, rows))}
            newRow={(rows) => freshTier(freshId('tier', parts.tier), 'New tier', rows.length + 1)}
            onDelete={(gone) => void remove('tier', gone)}
            onOpen={(tier) => show({ kind: 'tier', id: tier.id })}
          />
        </div>
      </section>
      <section className="pt-5" aria-label="catalogue">
        <h2 className="head">
          The catalogue <span className="num font-normal text-muted">{items.length}</span>
        </h2>
        {items.length === 0 && (
          <p className="py-2 text-muted">
            What can a player receive? Add an item, or paste names, tiers and values from a
            spreadsheet.
          </p>
        )}
        <Grid<Item>
          label="items"
          noun="item"
          rows={items}
          columns={itemColumns(parts)}
          idOf={(item) => item.id}
          nameOf={(item) => item.name}
          onRows={(label, rows) => commit(label, entriesOf('item', items, rows))}
          newRow={(rows) => newItem(rows, tiers)}
          copyOf={(item, rows) => ({ ...item, ...fresh(`${item.name} copy`, rows) })}
          onDelete={(gone) => void remove('item', gone)}
          onOpen={(item) => show({ kind: 'item', id: item.id })}
          addText="+ add an item, or paste rows from a spreadsheet"
        />
      </section>
      <LeavingQuestion leaving={leaving} onDone={() => setLeaving(null)} />
    </div>
  )
}

function fresh(name: string, rows: { id: string }[]) {
  return { id: freshId(name, new Set(rows.map((row) => row.id))), name }
}

function newItem(rows: Item[], tiers: Tier[]): Item {
  const { id, name } = fresh('New item', rows)
  return freshItem(id, name, tiers[0]?.id ?? '')
}

/** What changed between two lists of entities: bodies, removals, and places. */
export function entriesOf(
  kind: Kind,
  before: { id: string }[],
  after: { id: string }[],
): EntryIn[] {
  const old = new Map(before.map((part) => [part.id, part]))
  const kept = new Set(after.map((part) => part.id))
  const entries: EntryIn[] = before
    .filter((part) => !kept.has(part.id))
    .map((part) => ({ kind, id: part.id, body: null }))
  const order = before.filter((part) => kept.has(part.id)).map((part) => part.id)
  after.forEach((part, at) => {
    const isNew = !old.has(part.id)
    const next = after[at + 1]?.id
    // A new part goes to the end of the order; then see whether it stands where it should.
    if (isNew) order.push(part.id)
    const moved = order[at] !== part.id
    if (moved) order.splice(at, 0, ...order.splice(order.indexOf(part.id), 1))
    if (isNew || moved || old.get(part.id) !== part)
      entries.push({
        kind,
        id: part.id,
        body: part as unknown as EntryIn['body'],
        ...(moved && next && old.has(next) ? { before: next } : {}),
      })
  })
  return entries
}

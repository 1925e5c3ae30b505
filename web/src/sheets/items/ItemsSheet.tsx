// The ladder of tiers and the catalogue of items, each in a grid.
import type { Item, Tier } from '@/api/types'
import { freshItem, freshTier, madeOf } from '@/game/fresh'
import { withOwnIds } from '@/game/ids'
import { freshId, withEntries } from '@/game/parts'
import { changeList, changeSettings } from '@/game/edit'
import { show, useGame } from '@/game/store'
import { LeavingQuestion } from '@/sheets/LeavingQuestion'
import { useRemoval } from '@/sheets/useRemoval'
import { EditText } from '@/ui/EditText'
import { Grid } from '@/ui/grid/Grid'
import { useView } from '@/ui/grid/view'
import { itemColumns, tierColumns } from './columns'
import { fits, Looking, useLooked } from './Looking'

const FEW = 12 // which need not be searched
const idOf = (item: Item) => item.id

export function ItemsSheet() {
  const parts = useGame((state) => state.parts)
  const { leaving, remove, answered } = useRemoval()
  const tiers = [...parts.tier.values()]
  const items = [...parts.item.values()]
  const { currency } = parts.settings
  const { looked, look, filter } = useLooked()
  const columns = itemColumns(parts)
  const seen = useView({
    rows: items,
    columns,
    idOf,
    filter,
    fits: fits(parts, looked),
    sorting: looked.sorting,
  })
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">Items</h1>
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
            onRows={(label, changed) => changeList('tier', label, withOwnIds('tier', changed))}
            newRow={(rows) => freshTier(freshId('tier', parts.tier), 'New tier', rows.length + 1)}
            onDelete={(gone) => void remove('tier', gone)}
            onOpen={(tier) => show({ kind: 'tier', id: tier.id })}
          />
        </div>
      </section>
      <section className="pt-5" aria-label="catalogue">
        <h2 className="head">
          The catalogue <span className="num font-normal text-muted">{items.length}</span>
          <span className="ml-4 font-normal text-muted">
            worth is counted in{' '}
            <EditText
              label="what worth is counted in"
              text={currency}
              className="choice text-ink"
              inputClass="w-28"
              onCommit={(text) => changeSettings(`counted in ${text}`, { currency: text })}
            />
          </span>
        </h2>
        {items.length === 0 && (
          <p className="py-2 text-muted">
            What can a player receive? Add an item, or paste names, tiers and values from a
            spreadsheet.
          </p>
        )}
        {items.length > FEW && <Looking looked={looked} seen={seen.length} onLook={look} />}
        {items.length > 0 && seen.length === 0 && (
          <p className="py-2 text-muted">None of {items.length} items fits.</p>
        )}
        <Grid<Item>
          label="items"
          noun="item"
          rows={seen}
          columns={columns}
          idOf={idOf}
          isPart={filter !== '' || looked.sorting !== null}
          sorting={looked.sorting}
          onSort={(sorting) => look({ sorting })}
          nameOf={(item) => item.name}
          onRows={(label, changed) => changeList('item', label, withOwnIds('item', changed))}
          newRow={(rows) => newItem([...items, ...rows], tiers)}
          copyOf={(item, rows) => ({ ...item, ...fresh(`${item.name} copy`, rows) })}
          onDelete={(gone) => void remove('item', gone)}
          onOpen={(item) => show({ kind: 'item', id: item.id })}
          making={(offers) => {
            const made = madeOf(parts, offers)
            return {
              columns: itemColumns(withEntries(parts, made)),
              onRows: (label, changed) =>
                changeList('item', label, withOwnIds('item', changed), made),
            }
          }}
          addText="+ add an item, or paste rows from a spreadsheet"
        />
      </section>
      <LeavingQuestion leaving={leaving} onDone={answered} />
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

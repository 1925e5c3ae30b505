// New things, and copies of things, from the shelf; each is opened once it is saved.
import { toast } from 'sonner'
import type { Curve, EntryIn, Route, Source, Table, Target } from '@/api/types'
import { curveEntry, flatCurve } from '@/game/curves'
import {
  freshFlag,
  freshItem,
  freshPlace,
  freshProperty,
  freshRoute,
  freshSet,
  freshSource,
  freshStall,
  freshTable,
} from '@/game/fresh'
import { freshId, type Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { commit } from '@/game/sync'
import { placeEntry } from '@/sheets/place/edits'
import { stallEntry } from '@/sheets/stall/edits'
import { newLeg, routeEntry } from '@/sheets/route/legs'
import { propertyEntry, setEntry } from '@/sheets/kept/entries'
import { sourceEntry } from '@/sheets/source/entries'
import { tableEntry } from '@/sheets/table/lines'
import { addTarget, targetEntry } from '@/sheets/target/edits'

type Kind =
  'table' | 'source' | 'curve' | 'target' | 'route' | 'set' | 'property' | 'place' | 'stall'

export async function addTable() {
  const id = freshId('new table', useGame.getState().parts.table)
  await saved('new table', 'table', id, tableEntry(freshTable(id, 'New table')))
}

export async function addSource() {
  const id = freshId('new source', useGame.getState().parts.source)
  await saved('new source', 'source', id, sourceEntry(freshSource(id, 'New source')))
}

/** Of the lowest tier, which a designer sees and changes. */
export async function addItem() {
  const { parts } = useGame.getState()
  const [tier] = parts.tier.keys()
  if (!tier) return show({ kind: 'items', id: 'catalogue' })
  const item = freshItem(freshId('new item', parts.item), 'New item', tier)
  const entry = { kind: 'item', id: item.id, body: item as unknown as EntryIn['body'] }
  if (!(await commit('new item', [entry]))) show({ kind: 'item', id: item.id })
}

export async function addCurve() {
  const curve = flatCurve(useGame.getState().parts, 'New curve')
  await saved('new curve', 'curve', curve.id, curveEntry(curve))
}

export async function addFlag() {
  const flag = freshFlag(freshId('flag', useGame.getState().parts.flag))
  const entry = { kind: 'flag', id: flag.id, body: flag as unknown as EntryIn['body'] }
  if (!(await commit('new flag', [entry]))) show({ kind: 'flags', id: 'all' })
}

/** One visit to the depth in view, to begin with. */
export async function addRoute() {
  const { parts, depth } = useGame.getState()
  const id = freshId('new route', parts.route)
  const route = freshRoute(id, 'New route', [newLeg([], depth)])
  await saved('new route', 'route', id, routeEntry(route))
}

/** Of the first table that picks by weight. */
export async function addPlace() {
  const { parts } = useGame.getState()
  const stock = firstStock(parts)
  if (!stock) return noStock()
  const id = freshId('new place', parts.place)
  await saved('new place', 'place', id, placeEntry(freshPlace(id, 'New place', stock)))
}

export async function addStall() {
  const { parts, depth } = useGame.getState()
  const stock = firstStock(parts)
  if (!stock) return noStock()
  const id = freshId('new stall', parts.stall)
  await saved('new stall', 'stall', id, stallEntry(freshStall(id, 'New stall', stock, depth)))
}

const firstStock = (parts: Parts) =>
  [...parts.table.values()].find((table) => table.rule === 'pick' && table.lines.length)?.id

function noStock() {
  toast('First a table that picks one line by weight: it is the stock', {
    action: { label: 'New table', onClick: () => void addTable() },
  })
}

export async function addSet() {
  const id = freshId('new set', useGame.getState().parts.set)
  await saved('new set', 'set', id, setEntry(freshSet(id, 'New set')))
}

export async function addProperty() {
  const id = freshId('new property', useGame.getState().parts.property)
  const made = freshProperty(id, 'New property')
  await saved('new property', 'property', id, propertyEntry(made))
}

export const copyRoute = (route: Route) =>
  copied('route', route, (named) => routeEntry({ ...route, ...named }))

export const copyTable = (table: Table) =>
  copied('table', table, (named) => tableEntry({ ...table, ...named }))

/** Rolling the same tables, so that a change of one is a change of both. */
export const copySource = (source: Source) =>
  copied('source', source, (named) => sourceEntry({ ...source, ...named }))

/** With copies of the tables that its drops roll. */
export async function copySourceWithTables(source: Source) {
  const { parts } = useGame.getState()
  const name = `${source.name}, copy`
  const own = new Map<string, Table>()
  for (const { table: id } of source.drops) {
    const table = parts.table.get(id)
    if (!table || own.has(id)) continue
    const named = `${table.name}, copy`
    const taken = { has: (one: string) => parts.table.has(one) || madeAs(own, one) }
    own.set(id, { ...table, id: freshId(named, taken), name: named })
  }
  const drops = source.drops.map((drop) => ({
    ...drop,
    table: own.get(drop.table)?.id ?? drop.table,
  }))
  const id = freshId(name, parts.source)
  const entries = [...own.values()].map(tableEntry)
  const failure = await commit(`copied ${source.name} and its tables`, [
    ...entries,
    sourceEntry({ ...source, id, name, drops }),
  ])
  if (!failure) show({ kind: 'source', id }, true, id)
}

const madeAs = (own: Map<string, Table>, id: string) =>
  [...own.values()].some((table) => table.id === id)

export const copyTarget = (target: Target) =>
  copied('target', target, (named) => targetEntry({ ...target, ...named }))

/** A copy is for all, also of a curve that was private. */
export const copyCurve = (curve: Curve) =>
  copied('curve', curve, (named) => curveEntry({ ...curve, ...named, private: false }))

async function copied(
  kind: Kind,
  part: { name: string },
  entryOf: (named: { id: string; name: string }) => EntryIn,
) {
  const name = `${part.name}, copy`
  const id = freshId(name, useGame.getState().parts[kind])
  await saved(`copied ${part.name}`, kind, id, entryOf({ id, name }))
}

async function saved(label: string, kind: Kind, id: string, entry: EntryIn) {
  if (!(await commit(label, [entry]))) show({ kind, id }, true, id)
}

const MAKERS = {
  source: addSource,
  table: addTable,
  item: addItem,
  curve: addCurve,
  flag: addFlag,
  target: addTarget,
  route: addRoute,
  set: addSet,
  property: addProperty,
  place: addPlace,
  stall: addStall,
}

/** Making one, as a thing that can be done from anywhere. */
export const freshlyMade = (kind: keyof typeof MAKERS) => ({
  name: `New ${kind}`,
  run: () => void MAKERS[kind](),
})

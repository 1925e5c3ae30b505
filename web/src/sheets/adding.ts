// New things, and copies of things, from the shelf; each is opened once it is saved.
import { toast } from 'sonner'
import type { Curve, Route, Source, Table, Target } from '@/api/types'
import { flatCurve } from '@/game/curves'
import { edit, make } from '@/game/edit'
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
import { copyName, freshId, type BodyOf, type Kind, type Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { newLeg } from '@/sheets/route/legs'
import { addTarget } from '@/sheets/target/edits'

type Made = Exclude<Kind, 'tier' | 'flag' | 'item'>

const freshlyNamed = <K extends Kind>(kind: K, name: string) =>
  freshId(name, useGame.getState().parts[kind])

export async function addTable() {
  await made('table', freshTable(freshlyNamed('table', 'new table'), 'New table'))
}

export async function addSource() {
  await made('source', freshSource(freshlyNamed('source', 'new source'), 'New source'))
}

/** Of the lowest tier, which a designer sees and changes. */
export async function addItem() {
  const [tier] = useGame.getState().parts.tier.keys()
  if (!tier) return show({ kind: 'items', id: 'catalogue' })
  const item = freshItem(freshlyNamed('item', 'new item'), 'New item', tier)
  if (await make('item', item, 'new item').isDone()) show({ kind: 'item', id: item.id })
}

export async function addCurve() {
  await made('curve', flatCurve(useGame.getState().parts, 'New curve'))
}

export async function addFlag() {
  const flag = freshFlag(freshlyNamed('flag', 'flag'))
  if (await make('flag', flag, 'new flag').isDone()) show({ kind: 'flags', id: 'all' })
}

/** One visit to the depth in view, to begin with. */
export async function addRoute() {
  const legs = [newLeg([], useGame.getState().depth)]
  await made('route', freshRoute(freshlyNamed('route', 'new route'), 'New route', legs))
}

/** Of the first table that picks by weight. */
export async function addPlace() {
  const stock = firstStock(useGame.getState().parts)
  if (!stock) return noStock()
  await made('place', freshPlace(freshlyNamed('place', 'new place'), 'New place', stock))
}

export async function addStall() {
  const { parts, depth } = useGame.getState()
  const stock = firstStock(parts)
  if (!stock) return noStock()
  await made('stall', freshStall(freshlyNamed('stall', 'new stall'), 'New stall', stock, depth))
}

const firstStock = (parts: Parts) =>
  [...parts.table.values()].find((table) => table.rule === 'pick' && table.lines.length)?.id

function noStock() {
  toast('First a table that picks one line by weight: it is the stock', {
    action: { label: 'New table', onClick: () => void addTable() },
  })
}

export async function addSet() {
  await made('set', freshSet(freshlyNamed('set', 'new set'), 'New set'))
}

export async function addProperty() {
  await made('property', freshProperty(freshlyNamed('property', 'new property'), 'New property'))
}

export const copyRoute = (route: Route) => copied('route', route)
export const copyTable = (table: Table) => copied('table', table)
/** Rolling the same tables, so that a change of one is a change of both. */
export const copySource = (source: Source) => copied('source', source)
export const copyTarget = (target: Target) => copied('target', target)
/** A copy is for all, also of a curve that was private. */
export const copyCurve = (curve: Curve) => copied('curve', { ...curve, private: false })

/** With copies of the tables that its drops roll. */
export async function copySourceWithTables(source: Source) {
  const { parts } = useGame.getState()
  const name = copyName(source.name)
  const id = freshId(name, parts.source)
  const label = `copied ${source.name} and its tables`
  const copying = edit(label, (game) => {
    const own = new Map<string, string>()
    for (const { table: of } of source.drops) {
      const table = parts.table.get(of)
      if (!table || own.has(of)) continue
      const named = { name: copyName(table.name), id: freshId(copyName(table.name), game.table) }
      game.table.set(named.id, { ...table, ...named })
      own.set(of, named.id)
    }
    const drops = source.drops.map((drop) => ({
      ...drop,
      table: own.get(drop.table) ?? drop.table,
    }))
    game.source.set(id, { ...source, id, name, drops })
  })
  if (await copying.isDone()) show({ kind: 'source', id }, true, id)
}

async function copied<K extends Made>(kind: K, part: BodyOf<K>) {
  const name = copyName(part.name)
  await made(kind, { ...part, name, id: freshlyNamed(kind, name) }, `copied ${part.name}`)
}

async function made<K extends Made>(kind: K, body: BodyOf<K>, label = `new ${kind}`) {
  if (await make(kind, body, label).isDone()) show({ kind, id: body.id }, true, body.id)
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

/** What else people call what is made. */
const ALSO: Partial<Record<keyof typeof MAKERS, string[]>> = {
  source: ['new enemy', 'new chest', 'new container', 'new node', 'new parcel', 'new drop'],
  table: ['new drop table', 'new loot table', 'new spawn table'],
  item: ['new thing', 'new loot'],
  set: ['new bonus', 'set bonus', 'collection'],
  property: ['new bonus', 'attribute', 'luck'],
  curve: ['scaling', 'depth scaling'],
  flag: ['quest', 'condition'],
  target: ['goal', 'wanted odds', 'new aim'],
  route: ['run', 'path', 'playthrough'],
  place: ['map', 'level', 'room'],
  stall: ['shop', 'merchant', 'vendor'],
}

/** Making one, as a thing that can be done from anywhere. */
export const freshlyMade = (kind: keyof typeof MAKERS) => ({
  name: `New ${kind}`,
  also: [`add a ${kind}`, ...(ALSO[kind] ?? [])],
  run: () => void MAKERS[kind](),
})

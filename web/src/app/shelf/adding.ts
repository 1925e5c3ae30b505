// New things, and copies of things, from the shelf; each is opened once it is saved.
import type { Curve, EntryIn, Source, Table, Target } from '@/api/types'
import { curveEntry, flatCurve } from '@/game/curves'
import { freshFlag, freshSource, freshTable } from '@/game/fresh'
import { freshId } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { commit } from '@/game/sync'
import { sourceEntry } from '@/sheets/source/SourceSheet'
import { tableEntry } from '@/sheets/table/lines'
import { targetEntry } from '@/sheets/target/edits'

type Kind = 'table' | 'source' | 'curve' | 'target'

export async function addTable() {
  const id = freshId('new table', useGame.getState().parts.table)
  await saved('new table', 'table', id, tableEntry(freshTable(id, 'New table')))
}

export async function addSource() {
  const id = freshId('new source', useGame.getState().parts.source)
  await saved('new source', 'source', id, sourceEntry(freshSource(id, 'New source')))
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

export const copyTable = (table: Table) =>
  copied('table', table, (named) => tableEntry({ ...table, ...named }))

export const copySource = (source: Source) =>
  copied('source', source, (named) => sourceEntry({ ...source, ...named }))

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
  if (!(await commit(label, [entry]))) show({ kind, id })
}

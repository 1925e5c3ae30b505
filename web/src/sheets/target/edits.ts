// Targets as entries of an edit, and what has to change with a choice so that a target stays sound.
import type { EntryIn, Focus, Target, View } from '@/api/types'
import { freshTarget } from '@/game/fresh'
import { freshId, type Parts } from '@/game/parts'
import { commit } from '@/game/sync'
import { FIGURES, type Figure } from '@/game/targets'
import { show, useGame, type Failure } from '@/game/store'

export function targetEntry(target: Target): EntryIn {
  return { kind: 'target', id: target.id, body: target as unknown as EntryIn['body'] }
}

export function saveTarget(label: string, target: Target): Promise<Failure | null> {
  return commit(`${label}, ${target.name}`, [targetEntry(target)])
}

/**
 * The target with another figure: what the new one is not of goes, what it needs is chosen, and the
 * number that was wanted of the old one is forgotten.
 */
export function withFigure(parts: Parts, target: Target, figure: Figure): Target {
  const { of, longRun } = FIGURES[figure]
  const highest = [...parts.tier.keys()].at(-1) ?? null
  const tier = target.tier ?? parts.item.get(target.item ?? '')?.tier ?? highest
  const keepsItem = of === 'thing' && target.item !== null
  return {
    ...target,
    figure,
    item: keepsItem ? target.item : null,
    tier: of === 'event' || keepsItem ? null : tier,
    long_run: longRun && target.long_run,
    wanted: 0,
    tolerance: 0,
  }
}

/** The target of another source or table; a table has no hours. */
export function withView(target: Target, view: View): Target {
  const of =
    view.kind === 'source' ? { source: view.id, table: null } : { source: null, table: view.id }
  const changed = { ...target, ...of }
  if (view.kind === 'source' || !FIGURES[target.figure].perHour) return changed
  const figure = target.figure === 'per-hour' ? 'mean' : 'value'
  return { ...changed, figure, wanted: 0, tolerance: 0 }
}

/** A new target of what is in view, and its sheet. */
export async function addTarget(): Promise<void> {
  const { parts, lastView } = useGame.getState()
  const seen = lastView && parts[lastView.kind].has(lastView.id) ? lastView : null
  const view = seen ?? firstView(parts)
  if (!view) return
  const name = `Worth of ${parts[view.kind].get(view.id)?.name}`
  const target = freshTarget(freshId(name, parts.target), name, view)
  if (!(await commit(`new target, ${name}`, [targetEntry(target)])))
    show({ kind: 'target', id: target.id }, true, target.id)
}

function firstView(parts: Parts): View | null {
  const source = [...parts.source.keys()][0]
  const table = [...parts.table.keys()][0]
  if (source !== undefined) return { kind: 'source', id: source }
  return table === undefined ? null : { kind: 'table', id: table }
}

/**
 * One in so many, as it stands at this depth, as a target: to be kept, or to be typed over. Where the
 * source is not met here it is about all depths at which it is.
 */
export async function wantAsItStands(
  view: View,
  focus: Focus,
  oneIn: number,
): Promise<Failure | null> {
  const { parts, depth, flags } = useGame.getState()
  const item = focus.kind === 'item' ? (focus.id ?? null) : null
  const tier = focus.kind === 'tier' ? (focus.id ?? null) : null
  const thing = item ? parts.item.get(item)?.name : `any ${parts.tier.get(tier ?? '')?.name}`
  const name = `${capital(thing ?? '')} from ${parts[view.kind].get(view.id)?.name}`
  const wanted = Number(oneIn.toPrecision(3))
  const target: Target = {
    ...freshTarget(freshId(name, parts.target), name, view),
    figure: 'one-in',
    item,
    tier,
    wanted,
    tolerance: Number((wanted / 10).toPrecision(2)),
    depths: isMetAt(parts, view, depth) ? [depth, depth] : null,
    flags,
  }
  return commit(`new target, ${name}`, [targetEntry(target)])
}

function isMetAt(parts: Parts, view: View, depth: number): boolean {
  const met = view.kind === 'source' ? parts.source.get(view.id)?.depths : null
  return !met || (met[0] <= depth && depth <= met[1])
}

const capital = (text: string) => text.slice(0, 1).toUpperCase() + text.slice(1)

// Edits of targets: what has to change with a choice so that a target stays sound.
import { toast } from 'sonner'
import type { Focus, Target, View } from '@/api/types'
import { freshTarget } from '@/game/fresh'
import { freshId, type Parts } from '@/game/parts'
import { make, type Answer, type Changed } from '@/game/edit'
import {
  aboutOf,
  FIGURES,
  figureWords,
  goodsOf,
  hasFigure,
  isOrder,
  partsOf,
  slotsOf,
  thingName,
  wantedWords,
  type Figure,
  type FigureOf,
  type LookedAt,
} from '@/game/targets'
import { show, useGame } from '@/game/store'

export type Save = (label: string, changed: Changed<'target'>) => Answer

/**
 * The target with another figure: what the new one is not of goes, what it needs is chosen, and the
 * number that was wanted of the old one is forgotten.
 */
export function withFigure(parts: Parts, target: Target, figure: Figure): Target {
  const { of, longRun, after, promise } = FIGURES[figure]
  const first = of === 'part' ? partsOf(parts, target)[0] : undefined
  return renamed(parts, target, {
    ...target,
    figure,
    ...thingFor(parts, { ...target, figure }, of),
    swing_of: first ?? null,
    set: of === 'set' ? (target.set ?? parts.set.keys().next().value ?? null) : null,
    slot: of === 'slot' ? (target.slot ?? slotsOf(parts)[0] ?? null) : null,
    good: of === 'good' ? (target.good ?? goodsOf(parts, target)[0]?.id ?? null) : null,
    events: after ? Math.max(target.events, AFTER) : 1,
    side: promise ? (PROMISED[figure] ?? 'at-most') : target.side,
    long_run: longRun && target.long_run,
    wanted: figure === 'least' ? 1 : 0,
    tolerance: 0,
  })
}

const AFTER = 20
const PROMISED: Partial<Record<Figure, Target['side']>> = { least: 'at-least' }

/** What of an item, a tier or a tag a figure goes on being of. */
function thingFor(
  parts: Parts,
  target: Target,
  of: FigureOf,
): Pick<Target, 'item' | 'tier' | 'tag'> {
  const none = { item: null, tier: null, tag: null }
  if (['event', 'part', 'set', 'slot', 'good'].includes(of)) return none
  if (of === 'thing' && target.item) return { ...none, item: target.item }
  if (target.place && target.figure === 'chance') {
    const item = target.item ?? parts.item.keys().next().value ?? null
    return { ...none, item }
  }
  if (of !== 'tier' && target.tag) return { ...none, tag: target.tag }
  const highest = [...parts.tier.keys()].at(-1) ?? null
  return { ...none, tier: target.tier ?? parts.item.get(target.item ?? '')?.tier ?? highest }
}

/** The target of another source, table, route, place or stall, and of a figure that there is of it. */
export function withView(parts: Parts, target: Target, kind: LookedAt, id: string): Target {
  const nothing = { source: null, table: null, route: null, place: null, stall: null, good: null }
  const of = { ...nothing, gone: null, [kind]: id }
  const whole =
    kind === 'route' || kind === 'stall'
      ? { depths: null, flags: [], long_run: false, side: plainSide(target) }
      : {}
  const changed = {
    ...target,
    ...of,
    ...whole,
    ...thingFor(parts, { ...target, ...of }, FIGURES[target.figure].of),
  }
  const { of: thing } = FIGURES[target.figure]
  const isRolled = kind === 'source' || kind === 'table'
  if (thing === 'part' && isRolled) return withFigure(parts, changed, 'swing-of')
  if (kind === 'stall')
    return withFigure(parts, changed, thing === 'good' ? target.figure : 'on-sale')
  if (kind === 'place') changed.long_run = false
  if (hasFigure(kind, target.figure)) return renamed(parts, target, changed)
  return withFigure(parts, changed, thing === 'event' && kind !== 'place' ? 'value' : 'mean')
}

const plainSide = (target: Target) => (isOrder(target) ? 'near' : target.side)

/** The target of another item, tier, tag or part. */
export function withThing(parts: Parts, target: Target, thing: Target): Target {
  const { item, tier, tag, swing_of, set, slot, good } = thing
  const of = { item, tier, tag, swing_of, set, slot, good }
  return renamed(parts, target, { ...target, ...of, gone: stillGone(target) })
}

/** What it is about is there again, unless that was what it is looked at in. */
const stillGone = (target: Target) => (aboutOf(target) ? null : (target.gone ?? null))

/** The target with another side; an order wants no number. */
export function withSide(target: Target, side: Target['side']): Target {
  const changed = { ...target, side }
  return isOrder(changed) ? { ...changed, wanted: 0, tolerance: 0 } : changed
}

/** A target whose name nobody has chosen is called by what it is now. */
function renamed(parts: Parts, before: Target, now: Target): Target {
  const isOwn = before.name !== nameOf(parts, before)
  return isOwn ? now : { ...now, name: nameOf(parts, now) }
}

/** What a target is called until somebody names it: "Worth of Lantern Eel", "Any Wonder from Eel catch". */
function nameOf(parts: Parts, target: Target): string {
  const about = aboutOf(target) ?? 'source'
  const of = parts[about].get(target[about] ?? '')?.name ?? target[about] ?? ''
  if (target.figure === 'value') return `Worth of ${of}`
  if (target.figure === 'one-in') return `${capital(thingName(parts, target))} from ${of}`
  const source = parts.source.get(target.source ?? '')
  const thing = thingName(parts, target)
  const words = [figureWords(target.figure, source, about), thing].filter(Boolean).join(' ')
  return `${of}: ${words}`
}

/** A new target of what is in view, and its sheet. */
export async function addTarget(): Promise<void> {
  const { parts, lastView } = useGame.getState()
  const seen = lastView && parts[lastView.kind].has(lastView.id) ? lastView : null
  const view = seen ?? firstView(parts)
  if (!view) return
  const name = nameOf(parts, freshTarget('', '', view))
  const target = freshTarget(freshId(name, parts.target), name, view)
  if (await make('target', target, `new target, ${name}`).isDone())
    show({ kind: 'target', id: target.id }, true, target.id)
}

function firstView(parts: Parts): View | null {
  const source = [...parts.source.keys()][0]
  const table = [...parts.table.keys()][0]
  if (source !== undefined) return { kind: 'source', id: source }
  return table === undefined ? null : { kind: 'table', id: table }
}

/** A figure as it stands: of what, which, and how much. */
export interface Wish extends Partial<Target> {
  figure: Figure
  wanted: number
}

/**
 * What stands at a depth, by default the one in view, as a target: to be kept, or to be typed over. Where
 * the source is not met there it is about all depths at which it is.
 */
export async function holdAsItStands(
  of: { kind: LookedAt; id: string },
  wish: Wish,
  at?: number,
): Promise<void> {
  const { parts, depth: inView, flags } = useGame.getState()
  const depth = at ?? inView
  const wanted = Number(wish.wanted.toPrecision(3))
  const isWhole = of.kind === 'route' || of.kind === 'stall'
  const met = !isWhole && isMetAt(parts, of, depth)
  const unnamed: Target = {
    ...freshTarget('', '', of as View),
    ...{ source: null, table: null, route: null, place: null, stall: null, [of.kind]: of.id },
    depths: met ? [depth, depth] : null,
    flags: isWhole ? [] : flags,
    tolerance: Number((wanted / 10).toPrecision(2)),
    ...wish,
    wanted,
  }
  const name = nameOf(parts, unnamed)
  const target = { ...unnamed, id: freshId(name, parts.target), name }
  if (await make('target', target, `new target, ${name}`).isDone())
    toast(`Held: ${name}`, {
      description: wantedWords(target),
      action: { label: 'open', onClick: () => show({ kind: 'target', id: target.id }) },
    })
}

/** The one item or tier that is looked at; of a line what it gives, where that is one. */
export function thingOf(parts: Parts, focus: Focus): { item: string | null; tier: string | null } {
  if (focus.kind === 'item') return { item: focus.id ?? null, tier: null }
  if (focus.kind === 'tier') return { item: null, tier: focus.id ?? null }
  const table = focus.kind === 'line' ? parts.table.get(focus.table ?? '') : undefined
  const line = table?.lines.find((one) => one.id === focus.line)
  const given = line?.yields.length === 1 ? line.yields[0] : undefined
  const pooled = given?.pool && !given.pool.tags.length ? given.pool.tiers : []
  return { item: given?.item ?? null, tier: pooled.length === 1 ? (pooled[0] ?? null) : null }
}

function isMetAt(parts: Parts, of: { kind: LookedAt; id: string }, depth: number): boolean {
  const met = of.kind === 'source' || of.kind === 'place' ? parts[of.kind].get(of.id)?.depths : null
  return !met || (met[0] <= depth && depth <= met[1])
}

const capital = (text: string) => text.slice(0, 1).toUpperCase() + text.slice(1)

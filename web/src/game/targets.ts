// Targets in words and numbers: what each figure is called, how it is read and written, whom it touches.
import type { Source, Standing, Target, View } from '@/api/types'
import { amount, entered, figures, percent } from '@/ui/format'
import { typedNumber } from '@/ui/numbers'
import type { Parts } from './parts'
import { eventWords, ROLL } from './words'

export type Figure = Target['figure']
/** What a figure is of: an item or a tier, a tier alone, or the whole event. */
export type FigureOf = 'thing' | 'tier' | 'event'

interface Kind {
  of: FigureOf
  /** Entered and told in percent. */
  inPercent: boolean
  perHour: boolean
  longRun: boolean
}

const kind = (of: FigureOf, more: Partial<Kind> = {}): Kind => ({
  of,
  inPercent: false,
  perHour: false,
  longRun: false,
  ...more,
})

export const FIGURES: Record<Figure, Kind> = {
  'one-in': kind('thing'),
  wait: kind('thing'),
  chance: kind('thing', { inPercent: true }),
  mean: kind('thing', { longRun: true }),
  'per-hour': kind('thing', { longRun: true, perHour: true }),
  share: kind('tier', { inPercent: true, longRun: true }),
  worth: kind('tier', { inPercent: true, longRun: true }),
  value: kind('event', { longRun: true }),
  'value-per-hour': kind('event', { longRun: true, perHour: true }),
  cv: kind('event'),
}

/** A figure as the beginning of a sentence that goes on with what it is of. */
export function figureWords(figure: Figure, source: Source | undefined): string {
  const { one, a, many } = source ? eventWords(source) : ROLL
  return {
    'one-in': `${many} for one of`,
    wait: `the ${one} by which`,
    chance: `the chance that ${a} gives`,
    mean: `how many ${a} gives of`,
    'per-hour': 'how many an hour gives of',
    share: 'the share of what falls that is',
    worth: 'the share of the worth that is',
    value: `the worth of ${a}`,
    'value-per-hour': 'the worth of an hour',
    cv: `the swing of ${a}, sd over mean`,
  }[figure]
}

export const SIDES = { near: 'about', 'at-least': 'at least', 'at-most': 'at most' } as const

/** What the target is of, by name: "any Heirloom", "Brass token"; empty for the whole event. */
export function thingName(parts: Parts, target: Target): string {
  if (target.item) return parts.item.get(target.item)?.name ?? target.item
  if (target.tier) return `any ${parts.tier.get(target.tier)?.name ?? target.tier}`
  return ''
}

/** One figure of a target with its unit's sign. */
export function told(target: Target, x: number | null | undefined, never = false): string {
  if (never) return 'never'
  if (x === null || x === undefined) return 'none'
  if (target.figure === 'wait') return amount(x)
  return FIGURES[target.figure].inPercent ? `${percent(x)}\u202f%` : figures(x)
}

/** What is wanted, as it is typed: "40 ± 4", "95 %". */
export function wantedText({ figure, wanted, tolerance }: Target): string {
  const by = FIGURES[figure].inPercent ? 100 : 1
  const sign = by === 100 ? ' %' : ''
  const around = tolerance ? ` ± ${entered(by * tolerance)}` : ''
  return `${entered(by * wanted)}${around}${sign}`
}

const SIGNS = { near: '', 'at-least': '≥ ', 'at-most': '≤ ' } as const

/** The same with its side as a sign, where room is scarce and where it is typed: "≤ 40". */
export function wantedShort(target: Target): string {
  return SIGNS[target.side] + wantedText(target)
}

/** The same with its side, where nobody types it: "at most 40". */
export function wantedWords(target: Target): string {
  return `${target.side === 'near' ? '' : `${SIDES[target.side]} `}${wantedText(target)}`
}

const WRITTEN = 'write 40, 40 ± 4, 40 ± 10 %, 36-44, ≤ 40 or ≥ 40'
const TYPED_SIDES: [RegExp, Target['side']][] = [
  [/^\s*(≤|<=?|at most)/i, 'at-most'],
  [/^\s*(≥|>=?|at least)/i, 'at-least'],
]

/**
 * Read "40", "40 ± 4", "40 +- 10 %", "36-44", "≤ 40", ">= 40"; of chances and shares all in percent. A
 * text without a sign leaves the side as it is.
 */
export function typedWanted(
  text: string,
  { figure, side }: Target,
): Pick<Target, 'wanted' | 'tolerance' | 'side'> | string {
  const { inPercent } = FIGURES[figure]
  const signed = TYPED_SIDES.find(([sign]) => sign.test(text))
  const number = signed ? text.replace(signed[0], '') : text
  const read = typedNumbers(inPercent ? number.replaceAll('%', '') : number, inPercent ? 0.01 : 1)
  return typeof read === 'string' ? read : { ...read, side: signed ? signed[1] : side }
}

function typedNumbers(whole: string, by: number): Pick<Target, 'wanted' | 'tolerance'> | string {
  const [front = '', around, ...more] = whole.split(/±|\+\s*[/-]+/)
  if (more.length) return WRITTEN
  const range = around === undefined ? /^\s*([\d.]+)\s*[-–]\s*([\d.]+)\s*$/.exec(front) : null
  if (range) {
    const [low, high] = [Number(range[1]), Number(range[2])]
    if (low > high) return `${low} is more than ${high}; swap them`
    return { wanted: (by * (low + high)) / 2, tolerance: (by * (high - low)) / 2 }
  }
  const wanted = typedNumber(front)
  const part = /^(.*)%\s*$/.exec(around ?? '')
  const tolerance = around === undefined ? 0 : typedNumber(part ? (part[1] ?? '') : around)
  if (wanted === null || tolerance === null || wanted < 0 || tolerance < 0) return WRITTEN
  return { wanted: by * wanted, tolerance: part ? (wanted * tolerance) / 100 : by * tolerance }
}

const views = new WeakMap<Target, View>()

/** What a target looks at: the same object for the same target, so that it can be watched. */
export function targetView(target: Target): View {
  const known = views.get(target)
  if (known) return known
  const view: View = target.source
    ? { kind: 'source', id: target.source }
    : { kind: 'table', id: target.table ?? '' }
  views.set(target, view)
  return view
}

/** The targets that an edit of what is in view can move: of it, of what it rolls, of what rolls it. */
export function touched(parts: Parts, view: View | null): Target[] {
  if (!view) return []
  const below = reachedFrom(parts, view)
  const here = key(view)
  return [...parts.target.values()].filter(
    (target) =>
      below.has(key(targetView(target))) || reachedFrom(parts, targetView(target)).has(here),
  )
}

const key = (view: View) => `${view.kind}/${view.id}`

/** Everything that a source or table rolls, itself included. */
function reachedFrom(parts: Parts, start: View): Set<string> {
  const found = new Set<string>()
  const pending: View[] = [start]
  for (let view = pending.pop(); view; view = pending.pop()) {
    if (found.has(key(view))) continue
    found.add(key(view))
    if (view.kind === 'source')
      for (const drop of parts.source.get(view.id)?.drops ?? [])
        pending.push({ kind: 'table', id: drop.table })
    else
      for (const line of parts.table.get(view.id)?.lines ?? [])
        for (const given of line.yields) {
          if (given.table) pending.push({ kind: 'table', id: given.table })
          if (given.source) pending.push({ kind: 'source', id: given.source })
        }
  }
  return found
}

/** Which row of a standing is about a depth; -1 where it does not ask there. */
export const rowAt = (standing: Standing | undefined, depth: number) =>
  standing ? standing.depths.indexOf(depth) : -1

/** How a target stands, in a few words. */
export function standingWords(standing: Standing, word: string): string {
  if (standing.untold) return 'cannot be told'
  if (!standing.depths.length) return 'met nowhere that it asks about'
  const held = standing.holds.filter(Boolean).length
  const count = standing.depths.length
  const places = count === 1 ? `${word} ${standing.depths[0]}` : `${count} ${word}s`
  if (held === count) return count === 1 ? `holds at ${places}` : `holds at all ${places}`
  return `holds at ${held} of ${places}`
}

// Targets in words and numbers: what each figure is called, how it is read and written, whom it touches.
import type { Line, Source, Standing, Table, Target, View } from '@/api/types'
import { amount, entered, figures, percent } from '@/text/format'
import { hundredth, typedNumber } from '@/text/numbers'
import type { Parts } from './parts'
import { eventWords, nameOfLine, ROLL } from './words'

export type Figure = Target['figure']
/** What a figure is of: an item, a tier or a tag; a tier or a tag; a tier alone; the whole event; a part;
 * a set; a slot of what is worn; a good of a stall. */
export type FigureOf = 'thing' | 'group' | 'tier' | 'event' | 'part' | 'set' | 'slot' | 'good'

/** What a target can be about. */
export const LOOKED_AT = ['source', 'table', 'route', 'place', 'stall'] as const
export type LookedAt = (typeof LOOKED_AT)[number]

interface Kind {
  of: FigureOf
  /** Entered and told in percent. */
  inPercent: boolean
  perHour: boolean
  /** Only a source has it. */
  ofSource: boolean
  longRun: boolean
  /** After so many events. */
  after: boolean
  /** There is one at the end of a route. */
  onRoute: boolean
  /** There is one of a place as it is set out. */
  inPlace: boolean
  /** There is one of a source or a table. */
  rolled: boolean
  /** Decided by what can come at all. */
  promise: boolean
}

const kind = (of: FigureOf, more: Partial<Kind> = {}): Kind => ({
  of,
  inPercent: false,
  perHour: false,
  ofSource: false,
  longRun: false,
  after: false,
  onRoute: false,
  inPlace: false,
  rolled: true,
  promise: false,
  ...more,
})

export const FIGURES: Record<Figure, Kind> = {
  'one-in': kind('thing'),
  wait: kind('thing'),
  chance: kind('thing', { inPercent: true, inPlace: true }),
  none: kind('thing', { inPercent: true, after: true }),
  mean: kind('thing', { longRun: true, onRoute: true, inPlace: true }),
  'per-hour': kind('thing', { longRun: true, perHour: true, ofSource: true }),
  share: kind('group', { inPercent: true, longRun: true, onRoute: true }),
  worth: kind('group', { inPercent: true, longRun: true, onRoute: true }),
  value: kind('event', { longRun: true, onRoute: true }),
  'value-per-hour': kind('event', { longRun: true, perHour: true, ofSource: true }),
  cv: kind('event', { onRoute: true }),
  spread: kind('event', { after: true }),
  less: kind('event', { inPercent: true, after: true }),
  'swing-of': kind('part', { inPercent: true }),
  least: kind('thing', { promise: true }),
  most: kind('thing', { promise: true }),
  below: kind('tier', { promise: true }),
  cost: kind('thing', { ofSource: true }),
  fits: kind('event', { inPercent: true, ofSource: true }),
  complete: kind('set', { inPercent: true, after: true }),
  upgrades: kind('slot', { after: true }),
  'all-placed': kind('event', { inPercent: true, inPlace: true, rolled: false }),
  'on-sale': kind('good', { inPercent: true, rolled: false }),
  absence: kind('good', { rolled: false }),
}

/** Whether there is a figure of what a target is about. */
export function hasFigure(about: LookedAt, figure: Figure): boolean {
  const { of, ofSource, onRoute, inPlace, rolled } = FIGURES[figure]
  if (about === 'route') return onRoute
  if (about === 'place') return inPlace
  if (about === 'stall') return of === 'good'
  return rolled && (about === 'source' || !ofSource)
}

/** What a target is about; null where that is gone. */
export const aboutOf = (target: Target): LookedAt | null =>
  LOOKED_AT.find((one) => target[one]) ?? null

/** A figure as the beginning of a sentence that goes on with what it is of. */
export function figureWords(
  figure: Figure,
  source: Source | undefined,
  about: LookedAt | null = null,
): string {
  const { one, a, many } =
    about === 'route' ? WHOLE : about === 'place' ? SET_OUT : source ? eventWords(source) : ROLL
  return {
    'one-in': `${many} for one of`,
    wait: `the ${one} by which`,
    none: `the chance to have none, after some ${many}, of`,
    chance: `the chance that ${a} gives`,
    mean: `how many ${a} gives of`,
    'per-hour': 'how many an hour gives of',
    share: 'the share of what falls that is',
    worth: 'the share of the worth that is',
    value: `the worth of ${a}`,
    'value-per-hour': 'the worth of an hour',
    cv: `the swing of ${a}, sd over mean`,
    spread: `the spread of what ${many} are worth`,
    less: `the chance that ${many} are worth less than`,
    'swing-of': `the part of the swing of ${a} that is from`,
    least: `the fewest that ${a} can give of`,
    most: `the most that ${a} can give of`,
    below: `the most that ${a} can give of anything below`,
    cost: 'what it costs to have one of',
    fits: `the chance that all of ${a} fits`,
    complete: `the chance to have complete, after some ${many}, the set`,
    upgrades: `how many upgrades come, in some ${many}, for`,
    'all-placed': 'the chance that all that is to lie there finds a spot',
    'on-sale': 'the share of periods that have on sale',
    absence: 'the longest wait, of its first 400 periods, for',
  }[figure]
}

const SET_OUT = { one: 'setting-out', a: 'the place', many: 'settings-out' }
const WHOLE = { one: 'route', a: 'the whole', many: 'routes' }

export const SIDES = {
  near: 'about',
  'at-least': 'at least',
  'at-most': 'at most',
  'never-falls': 'never falling',
  'never-rises': 'never rising',
} as const

/** Whether it wants an order along the depths, and no number. */
export const isOrder = ({ side }: Target) => side === 'never-falls' || side === 'never-rises'

/** What the target is of, by name: "any Heirloom", "Brass token"; empty for the whole event. */
export function thingName(parts: Parts, target: Target): string {
  if (target.figure === 'below' && target.tier)
    return parts.tier.get(target.tier)?.name ?? target.tier
  if (target.item) return parts.item.get(target.item)?.name ?? target.item
  if (target.tag) return `anything of “${target.tag}”`
  if (target.swing_of) return partName(parts, target)
  if (target.set) return parts.set.get(target.set)?.name ?? target.set
  if (target.slot) return target.slot
  if (target.stall) return goodName(parts, target)
  if (target.tier) return `any ${parts.tier.get(target.tier)?.name ?? target.tier}`
  return ''
}

/** A line or drop by what it gives. */
function partName(parts: Parts, { swing_of: of, source }: Target): string {
  if (!of) return ''
  if (of.table) {
    const table = parts.table.get(of.table)
    return `${nameOfLine(parts, table, of.part)} of ${table?.name ?? of.table}`
  }
  const drop = parts.source.get(source ?? '')?.drops.find((one) => one.id === of.part)
  return parts.table.get(drop?.table ?? '')?.name ?? of.part
}

const stockOf = (parts: Parts, { stall }: Target): Table | undefined =>
  parts.table.get(parts.stall.get(stall ?? '')?.stock ?? '')

/** The lines that a stall is stocked from. */
export const goodsOf = (parts: Parts, target: Target): Line[] => stockOf(parts, target)?.lines ?? []

const goodName = (parts: Parts, target: Target) =>
  nameOfLine(parts, stockOf(parts, target), target.good ?? '')

/** Every slot of what is worn. */
export const slotsOf = (parts: Parts): string[] => [
  ...new Set([...parts.item.values()].flatMap((item) => (item.slot ? [item.slot] : []))),
]

/** Every part that the swing of a target's event can come from. */
export function partsOf(parts: Parts, target: Target): { table: string | null; part: string }[] {
  const drops = parts.source.get(target.source ?? '')?.drops ?? []
  const tables = [...reachedFrom(parts, targetViews(parts, target))]
    .filter((one) => one.startsWith('table/'))
    .map((one) => one.slice('table/'.length))
  const lines = tables.flatMap((table) =>
    (parts.table.get(table)?.lines ?? []).map((line) => ({ table, part: line.id })),
  )
  return [...drops.map((drop) => ({ table: null, part: drop.id })), ...lines]
}

/** One figure of a target with its unit's sign. */
export function told(target: Target, x: number | null | undefined, never = false): string {
  if (never) return 'never'
  if (x === null || x === undefined) return 'none'
  if (target.figure === 'wait') return amount(x)
  return FIGURES[target.figure].inPercent ? `${percent(x)}\u202f%` : figures(x)
}

/** What is wanted, as it is typed: "40 ± 4", "95 %". */
export function wantedText(target: Target): string {
  const { figure, wanted, tolerance, side } = target
  if (isOrder(target)) return SIDES[side]
  const by = FIGURES[figure].inPercent ? 100 : 1
  const sign = by === 100 ? ' %' : ''
  const around = tolerance ? ` ± ${entered(tolerance, by)}` : ''
  return `${entered(wanted, by)}${around}${sign}`
}

const SIGNS = {
  near: '',
  'at-least': '≥ ',
  'at-most': '≤ ',
  'never-falls': '',
  'never-rises': '',
} as const

/** The same with its side as a sign, where room is scarce and where it is typed: "≤ 40". */
export function wantedShort(target: Target): string {
  return SIGNS[target.side] + wantedText(target)
}

/** The same with its side, where nobody types it: "at most 40". */
export function wantedWords(target: Target): string {
  const isBare = target.side === 'near' || isOrder(target)
  return `${isBare ? '' : `${SIDES[target.side]} `}${wantedText(target)}`
}

const WRITTEN = 'write 40, 40 ± 4, 40 ± 10 %, 36-44, ≤ 40 or ≥ 40'
const ORDERS = ['never-falls', 'never-rises'] as const
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
  const order = ORDERS.find((one) => SIDES[one] === text.trim().toLowerCase())
  if (order) return { wanted: 0, tolerance: 0, side: order }
  if (side === 'never-falls' || side === 'never-rises') side = 'near'
  const signed = TYPED_SIDES.find(([sign]) => sign.test(text))
  const number = signed ? text.replace(signed[0], '') : text
  const read = typedNumbers(
    inPercent ? number.replaceAll('%', '') : number,
    inPercent ? hundredth : asItIs,
  )
  return typeof read === 'string' ? read : { ...read, side: signed ? signed[1] : side }
}

const asItIs = (value: number) => value

function typedNumbers(
  whole: string,
  scaled: (value: number) => number,
): Pick<Target, 'wanted' | 'tolerance'> | string {
  const [front = '', around, ...more] = whole.split(/±|\+\s*[/-]+/)
  if (more.length) return WRITTEN
  const range = around === undefined ? /^\s*([\d.]+)\s*[-–]\s*([\d.]+)\s*$/.exec(front) : null
  if (range) {
    const [low, high] = [Number(range[1]), Number(range[2])]
    if (low > high) return `${low} is more than ${high}; swap them`
    return { wanted: scaled((low + high) / 2), tolerance: scaled((high - low) / 2) }
  }
  const wanted = typedNumber(front)
  const part = /^(.*)%\s*$/.exec(around ?? '')
  const tolerance = around === undefined ? 0 : typedNumber(part ? (part[1] ?? '') : around)
  if (wanted === null || tolerance === null || wanted < 0 || tolerance < 0) return WRITTEN
  return {
    wanted: scaled(wanted),
    tolerance: part ? scaled((wanted * tolerance) / 100) : scaled(tolerance),
  }
}

const views = new WeakMap<Target, View>()

/** What a target looks at, null for what is no source or table, and for what is gone: the same object for the same target, so that it can be
 * watched. */
export function targetView(target: Target): View | null {
  if (!target.source && !target.table) return null
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
  const below = reachedFrom(parts, [view])
  const here = key(view)
  return [...parts.target.values()].filter((target) => {
    const mine = targetViews(parts, target)
    const isBelow = !target.route && mine.some((one) => below.has(key(one)))
    return isBelow || reachedFrom(parts, mine).has(here)
  })
}

/** All that it is about: of a route what its legs meet. */
function targetViews(parts: Parts, target: Target): View[] {
  const view = targetView(target)
  if (view) return [view]
  const stocked = parts.place.get(target.place ?? '') ?? parts.stall.get(target.stall ?? '')
  if (stocked) return [{ kind: 'table', id: stocked.stock }]
  const route = parts.route.get(target.route ?? '')
  const spawns = (parts.settings.depth.bands ?? []).flatMap((band) => band.spawns ?? [])
  return (route?.legs ?? []).flatMap((leg): View[] => {
    if (leg.source) return [{ kind: 'source', id: leg.source }]
    const stock = parts.place.get(leg.place ?? '')?.stock
    return (stock ? [stock] : spawns).map((id): View => ({ kind: 'table', id }))
  })
}

const key = (view: View) => `${view.kind}/${view.id}`

/** Everything that sources and tables roll, they themselves included, as “kind/id”. */
export function reachedFrom(parts: Parts, starts: View[]): Set<string> {
  const found = new Set<string>()
  const pending: View[] = [...starts]
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

/** How an event breaks a promise, step by step: "bits gives Crown, Eel catch misses". */
export function wayWords(parts: Parts, way: Standing['way']): string {
  return way.map((step) => `${stepName(parts, step)} ${HOW[step.how]}`.trim()).join(', ')
}

const HOW = { hits: '', misses: 'misses', nothing: 'gives nothing' } as const

function stepName(parts: Parts, { kind, id, part }: Standing['way'][number]): string {
  if (kind === 'source') {
    const drop = parts.source.get(id)?.drops.find((one) => one.id === part)
    return parts.table.get(drop?.table ?? '')?.name ?? part
  }
  const table = parts.table.get(id)
  const isLine = table?.lines.some((one) => one.id === part)
  return isLine ? nameOfLine(parts, table, part) : (table?.name ?? id)
}

/** How a target stands, in a few words. */
export function standingWords(target: Target, standing: Standing, word: string): string {
  if (standing.untold) return 'cannot be told'
  if (!standing.depths.length) return 'met nowhere that it asks about'
  if (target.stall) return standing.holds[0] ? 'holds' : 'does not hold'
  const held = standing.holds.filter(Boolean).length
  const count = standing.depths.length
  const places = target.route
    ? 'its end'
    : count === 1
      ? `${word} ${standing.depths[0]}`
      : `${count} ${word}s`
  if (held === count) return count === 1 ? `holds at ${places}` : `holds at all ${places}`
  return `holds at ${held} of ${places}`
}

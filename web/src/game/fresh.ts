// New parts with every field in place, as the server would send them back.
import type {
  Drop,
  EntryIn,
  GameBody,
  Item,
  ItemSet,
  Place,
  Property,
  Quantity,
  Route,
  RouteLeg,
  Source,
  Stall,
  Table,
  Target,
  Tier,
  View,
} from '@/api/types'
import { freshId, type Parts } from './parts'

const ONE: Quantity = { min: 1, max: 1, step: 1, dice: null, curve: null }
const GATE = { curve: null, depths: null, needs: [], unless: [], guard: null }

export function freshDrop(id: string, table: string): Drop {
  return { ...GATE, id, table, chance: 1, times: ONE }
}

export function freshTable(id: string, name: string): Table {
  const base = { id, name, rolls: ONE, notes: '', nothing: 0, nothing_curve: null }
  return { ...base, rule: 'pick', distinct: false, lines: [] }
}

export function freshSource(id: string, name: string): Source {
  const none = { depths: null, cells: null, charges: null, respawn_seconds: null, price: null }
  const ground = { missed: 0, pick_up: null, lasts: null }
  const family = { tags: [], like: null, without: [], stated: [] }
  return {
    ...none,
    ...family,
    ...ground,
    id,
    name,
    kind: 'enemy',
    seconds: 5,
    drops: [],
    notes: '',
  }
}

export function freshItem(id: string, name: string, tier: string): Item {
  const size = { stack: 1, width: 1, height: 1 }
  const rest = {
    tags: [],
    value: 0,
    abundance: 1,
    currency: false,
    slot: null,
    stats: {},
    effects: [],
  }
  return { ...size, ...rest, id, name, tier }
}

export function freshTier(id: string, name: string, pips: number): Tier {
  return { id, name, pips: Math.min(6, pips), colour: '#6d6258', curve: null, stat_factor: 1 }
}

/** Things of a kind that are only named so far, as edits. New items are of the lowest tier. */
export function madeOf(parts: Parts, offers: { kind: string; name: string }[]): EntryIn[] {
  const taken = { item: new Set(parts.item.keys()), tier: new Set(parts.tier.keys()) }
  return offers.flatMap(({ kind, name }) => {
    if (kind !== 'item' && kind !== 'tier') return []
    const id = freshId(name, taken[kind])
    taken[kind].add(id)
    const lowest = parts.tier.keys().next().value ?? ''
    const body =
      kind === 'item' ? freshItem(id, name, lowest) : freshTier(id, name, taken.tier.size)
    return [{ kind, id, body: body as unknown as EntryIn['body'] }]
  })
}

export function freshRoute(id: string, name: string, legs: RouteLeg[]): Route {
  return { id, name, notes: '', flags: [], purse: {}, bag: null, legs }
}

export function freshSet(id: string, name: string): ItemSet {
  return { id, name, items: [], effects: [], notes: '' }
}

export function freshProperty(id: string, name: string): Property {
  return { id, name, base: 100, least: 0, most: null }
}

export function freshPlace(id: string, name: string, stock: string): Place {
  const rest = { depths: null, refill_seconds: null, lasts_seconds: null, at_start: true }
  const plan = { size: [12, 8] as [number, number], covers: [], spots: [], least: [] }
  return { ...rest, ...plan, id, name, stock, way: 'shared-out', filled: 0.6, notes: '' }
}

export function freshStall(id: string, name: string, stock: string, depth: number): Stall {
  const clock = { period_seconds: 86_400, starts_at: 0, grace_seconds: 0 }
  const rest = { fixed: [], price_factor: 1, notes: '' }
  const seed = Math.floor(Math.random() * 1e9)
  return { ...clock, ...rest, id, name, stock, slots: 1, seed, way: 'draw', depth }
}

export function freshFlag(id: string): GameBody['flags'][number] {
  return { id, name: 'New flag' }
}

/** A target of the worth of an event, until something else is chosen. */
export function freshTarget(id: string, name: string, view: View): Target {
  const of = view.kind === 'source' ? { source: view.id } : { table: view.id }
  const unset = { source: null, table: null, route: null, item: null, tier: null, tag: null }
  const elsewhere = { place: null, stall: null, good: null }
  const none = {
    ...unset,
    ...elsewhere,
    set: null,
    slot: null,
    depths: null,
    swing_of: null,
    gone: null,
  }
  const after = { spread: 'cv', events: 1, less_than: 0 } as const
  const rest = { sure: 50, ...after, long_run: false, weight: 1, aside: false, notes: '' } as const
  return {
    ...none,
    ...of,
    ...rest,
    flags: [],
    id,
    name,
    figure: 'value',
    side: 'near',
    wanted: 0,
    tolerance: 0,
  }
}

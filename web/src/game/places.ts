// The places that can name a curve, and the curves in them.
import type { Parts } from './parts'

const CURVE_KEYS = new Set(['curve', 'nothing_curve'])
const HOLDERS = ['table', 'source', 'item', 'tier', 'route'] as const

export interface Place {
  kind: string
  id: string
  body: unknown
}

export function placesOf(parts: Parts): Place[] {
  const held = HOLDERS.flatMap((kind) =>
    [...parts[kind].values()].map((body): Place => ({ kind, id: body.id, body })),
  )
  return [...held, { kind: 'settings', id: 'game', body: parts.settings }]
}

/** The body of one such place as it is; null where there is none. */
export function placeBody(parts: Parts, kind: string, id: string): unknown {
  if (kind === 'settings') return parts.settings
  const holder = HOLDERS.find((one) => one === kind)
  return (holder && parts[holder].get(id)) ?? null
}

/** Every curve that a body names, as often as it does. */
export function curvesIn(body: unknown): string[] {
  const found: string[] = []
  withCurves(body, (id) => {
    found.push(id)
    return id
  })
  return found
}

/** A body with other curves in place of those that it names. */
export function withCurves(value: unknown, rename: (id: string) => string): unknown {
  if (Array.isArray(value)) return value.map((one) => withCurves(one, rename))
  if (value === null || typeof value !== 'object') return value
  const parts = Object.entries(value).map(([key, inner]): [string, unknown] => [
    key,
    CURVE_KEYS.has(key) && typeof inner === 'string' ? rename(inner) : withCurves(inner, rename),
  ])
  return Object.fromEntries(parts)
}

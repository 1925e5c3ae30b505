// Edits of a route's legs: pure.
import type { Quantity, RouteLeg } from '@/api/types'
import { freshLetter } from '@/game/parts'

const ONE: Quantity = { min: 1, max: 1, step: 1, dice: null, curve: null }

/** A visit to a depth, to begin with. */
export function newLeg(legs: RouteLeg[], depth: number): RouteLeg {
  const none = {
    source: null,
    times: null,
    place: null,
    gains: [],
    loses: [],
    sells: null,
    stores: false,
  }
  return { ...none, id: freshLetter(legs), from: depth, to: depth, visits: ONE }
}

export const VISITS = 'visits'
export const NOTHING = 'nothing'

/** What a leg does, as a choice: a source's or a place's id, or one of the two words. */
export function doingOf(leg: RouteLeg): string {
  if (leg.place) return `place/${leg.place}`
  return leg.source ? `source/${leg.source}` : leg.visits ? VISITS : NOTHING
}

/** The leg doing something else; how often stays. */
export function withDoing(leg: RouteLeg, doing: string): RouteLeg {
  const often = leg.times ?? leg.visits ?? ONE
  const bare = { ...leg, source: null, times: null, visits: null, place: null }
  if (doing === VISITS) return { ...bare, visits: often }
  if (doing.startsWith('place/')) return { ...bare, place: doing.slice('place/'.length) }
  return doing === NOTHING ? bare : { ...bare, source: doing.slice('source/'.length), times: often }
}

export function withOften(leg: RouteLeg, often: Quantity): RouteLeg {
  return leg.source ? { ...leg, times: often } : { ...leg, visits: often }
}

export const oftenOf = (leg: RouteLeg): Quantity => leg.times ?? leg.visits ?? ONE

/** One end of a leg at another depth; a leg of one depth moves as a whole. */
export function withEnd(leg: RouteLeg, end: 'from' | 'to', depth: number): RouteLeg {
  return leg.from === leg.to ? { ...leg, from: depth, to: depth } : { ...leg, [end]: depth }
}

export function movedLeg(legs: RouteLeg[], at: number, by: number): RouteLeg[] {
  const to = at + by
  if (to < 0 || to >= legs.length) return legs
  const next = [...legs]
  next.splice(to, 0, ...next.splice(at, 1))
  return next
}

export interface StopPlace {
  leg: number
  depth: number
  /** Whether it is where its leg begins, or ends. */
  begins: boolean
  ends: boolean
}

/** Every stop of a route, in order. */
export function stopsOf(legs: RouteLeg[]): StopPlace[] {
  return legs.flatMap((leg, at) => {
    const step = leg.to >= leg.from ? 1 : -1
    const count = Math.abs(leg.to - leg.from) + 1
    return Array.from({ length: count }, (_, n) => ({
      leg: at,
      depth: leg.from + step * n,
      begins: n === 0,
      ends: n === count - 1,
    }))
  })
}

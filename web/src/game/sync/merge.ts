// Two edits of one thing, put together: what each changed, and where both changed the same.

import { freshLetter } from '../parts'

export type Json = null | boolean | number | string | Json[] | { [key: string]: Json | undefined }
export type Side = 'mine' | 'theirs'

export interface Merged {
  body: Json
  /** Where both changed the same, and differently. */
  clashes: string[]
}

/**
 * Mine and theirs, both made of `before`. Where they clash, `side` stands. Lists of things with ids are
 * taken thing by thing; any other list is one value.
 */
export function merged(before: Json, mine: Json, theirs: Json, side: Side): Merged {
  const clashes: string[] = []
  const body = put(before, mine, theirs, '', { side, clashes })
  return { body: body ?? null, clashes }
}

interface How {
  side: Side
  clashes: string[]
}
type Value = Json | undefined

function put(before: Value, mine: Value, theirs: Value, path: string, how: How): Value {
  if (same(mine, theirs) || same(before, theirs)) return mine
  if (same(before, mine)) return theirs
  if (isHolder(mine) && isHolder(theirs))
    return fields(isHolder(before) ? before : {}, mine, theirs, path, how)
  if (isListed(mine) && isListed(theirs) && (before === undefined || isListed(before)))
    return things(before ?? [], mine, theirs, path, how)
  how.clashes.push(path)
  return how.side === 'mine' ? mine : theirs
}

type Holder = { [key: string]: Value }

function fields(before: Holder, mine: Holder, theirs: Holder, path: string, how: How): Holder {
  const result: Holder = {}
  for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
    const within = path ? `${path}.${key}` : key
    const value = put(before[key], mine[key], theirs[key], within, how)
    if (value !== undefined) result[key] = value
  }
  return result
}

type Thing = Holder & { id: string }

function things(before: Thing[], made: Thing[], theirs: Thing[], path: string, how: How): Thing[] {
  const mine = apart(before, made, theirs)
  const [old, own, other] = [byId(before), byId(mine), byId(theirs)]
  return ordered(before, mine, theirs).flatMap((id) => {
    const value = put(old.get(id), own.get(id), other.get(id), `${path}[${id}]`, how)
    return value === undefined ? [] : [value as Thing]
  })
}

/** Both made something new under one id: they are two things, and mine has another. */
function apart(before: Thing[], mine: Thing[], theirs: Thing[]): Thing[] {
  const [old, other] = [byId(before), byId(theirs)]
  const isTwo = (one: Thing) =>
    !old.has(one.id) && other.has(one.id) && !same(one, other.get(one.id))
  if (!mine.some(isTwo)) return mine
  const taken = [...mine, ...theirs]
  return mine.map((one) => {
    if (!isTwo(one)) return one
    const renamed = { ...one, id: freshLetter(taken) }
    taken.push(renamed)
    return renamed
  })
}

const byId = (list: Thing[]) => new Map(list.map((one) => [one.id, one]))

/** Whoever moved things has their order; what only the other has stands behind its neighbour there. */
function ordered(before: Thing[], mine: Thing[], theirs: Thing[]): string[] {
  const moved = !same(idsIn(mine, before), idsIn(before, mine))
  const [lead, other] = moved ? [mine, theirs] : [theirs, mine]
  const result = lead.map((one) => one.id)
  other.forEach((one, at) => {
    if (result.includes(one.id)) return
    const neighbour = other[at - 1]
    result.splice(neighbour ? result.indexOf(neighbour.id) + 1 : 0, 0, one.id)
  })
  return result
}

function idsIn(list: Thing[], others: Thing[]): string[] {
  const there = new Set(others.map((one) => one.id))
  return list.map((one) => one.id).filter((id) => there.has(id))
}

export function same(one: Value, other: Value): boolean {
  if (one === other) return true
  if (Array.isArray(one) && Array.isArray(other))
    return one.length === other.length && one.every((value, at) => same(value, other[at]))
  if (!isHolder(one) || !isHolder(other)) return false
  const keys = new Set([...Object.keys(one), ...Object.keys(other)])
  return [...keys].every((key) => same(one[key], other[key]))
}

function isHolder(value: Value): value is Holder {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

function isListed(value: Value): value is Thing[] {
  return Array.isArray(value) && value.every((one) => isHolder(one) && typeof one.id === 'string')
}

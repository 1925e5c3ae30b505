// What differs between two states of a thing, as people say it: where, before, after, with names and units.
// For what clashes, what is proposed, what history holds and what an import would change.
import type { Quantity, Yield } from '@/api/types'
import { entered } from '@/text/format'
import { KINDS, type Kind, type Parts } from './parts'
import { same, type Json } from './sync/merge'
import { quantityText } from './words'

export interface Difference {
  /** Like `lines[a].weight`; '' is the thing itself. */
  path: string
  /** What it is in words, the thing's own name aside: "Beacon lens: weight". */
  where: string
  before: string
  after: string
}

/** Names by kind and id, and what things are worth in: all that words need of a game. */
export interface Names {
  of: { [kind in Kind]?: Record<string, string> }
  currency: string
}

export function namesOf(parts: Parts): Names {
  const of = Object.fromEntries(
    KINDS.map((kind) => {
      const named = [...parts[kind].values()] as { id: string; name?: string }[]
      return [kind, Object.fromEntries(named.map((one) => [one.id, one.name ?? one.id]))]
    }),
  )
  return { of, currency: parts.settings.currency }
}

type Value = Json | undefined
type Holder = { [key: string]: Value }

/** Each thing that differs, by itself; lists of things with ids are taken thing by thing. */
export function differences(names: Names, before: Value, after: Value): Difference[] {
  const found: Difference[] = []
  walk(names, before, after, { path: '', where: '', key: '' }, found)
  return found
}

interface At {
  path: string
  where: string
  key: string
}

function walk(names: Names, before: Value, after: Value, at: At, found: Difference[]): void {
  if (same(before, after)) return
  if (isHolder(before) && isHolder(after) && !isQuantity(before) && !isQuantity(after)) {
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)]))
      if (key !== 'id') walk(names, before[key], after[key], under(at, key), found)
  } else if (isListed(before) && isListed(after)) {
    for (const id of new Set([...before, ...after].map((one) => one.id))) {
      const [old, now] = [before, after].map((list) => list.find((one) => one.id === id))
      walk(names, old, now, within(names, at, id, now ?? old), found)
    }
    moved(before, after, at, found)
  } else {
    found.push({
      path: at.path,
      where: at.where || 'all of it',
      before: told(names, at.key, before),
      after: told(names, at.key, after),
    })
  }
}

function under({ path, where }: At, key: string): At {
  const word = WORDS[key] ?? key.replaceAll('_', ' ')
  return { path: path ? `${path}.${key}` : key, where: where ? `${where}: ${word}` : word, key }
}

function within(names: Names, { path, key }: At, id: string, one: Value): At {
  return { path: `${path}[${id}]`, where: calledOf(names, one) || id, key }
}

/** The same things in another order. */
function moved(before: Thing[], after: Thing[], at: At, found: Difference[]): void {
  const order = (list: Thing[], other: Thing[]) =>
    list.filter((one) => other.some(({ id }) => id === one.id)).map((one) => one.id)
  const [old, now] = [order(before, after), order(after, before)]
  if (same(old, now)) return
  const first = now.findIndex((id, place) => id !== old[place])
  const where = `${at.where || at.key}: order`
  const from = (ids: string[]) => `${first + 1}. ${ids[first] ?? ''}`
  found.push({ path: at.path, where, before: from(old), after: from(now) })
}

/** What a line, drop, band or thing is called. */
function calledOf(names: Names, one: Value): string {
  if (!isHolder(one)) return ''
  if (typeof one.name === 'string') return one.name
  if (Array.isArray(one.yields)) return givesWords(names, one.yields as unknown as Yield[])
  if (typeof one.table === 'string') return nameOf(names, 'table', one.table)
  return ''
}

function told(names: Names, key: string, value: Value): string {
  if (value === undefined || value === null)
    return key === '' || isThing(key) ? 'not there' : 'none'
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') return number(names, key, value)
  if (typeof value === 'string') return text(names, key, value)
  if (isQuantity(value)) return quantity(names, value)
  if (Array.isArray(value)) return list(names, key, value)
  return holder(names, value)
}

function number(names: Names, key: string, value: number): string {
  if (key === 'chance' || key === 'missed') return `${entered(value, 100)} %`
  if (key === 'value') return `${entered(value)} ${names.currency}`
  if (key.endsWith('seconds')) return `${entered(value)} s`
  return entered(value)
}

function text(names: Names, key: string, value: string): string {
  const kind = KIND_OF[key]
  const said = kind ? nameOf(names, kind, value) : value
  return said.length > LONGEST ? `${said.slice(0, LONGEST)}…` : said || 'nothing'
}

function quantity(names: Names, value: Holder): string {
  const one = value as unknown as Quantity
  return quantityText(one) + (one.curve ? `, times ${nameOf(names, 'curve', one.curve)}` : '')
}

function list(names: Names, key: string, value: Json[]): string {
  if (!value.length) return 'none'
  if (key === 'yields') return yieldsWords(names, value as unknown as Yield[])
  if (key === 'points')
    return value
      .map((point) => (point as number[]).map((one) => entered(one)).join(': '))
      .join(', ')
  if (key === 'depths' && value.length === 2) return value.map(String).join('–')
  return value.map((one) => told(names, key, one)).join(', ')
}

/** A thing that is only on one side: by what it would be looked for. */
function holder(names: Names, value: Holder): string {
  const parts = ['weight', 'chance', 'copies', 'rise', 'after', 'sure_at', 'min', 'max']
    .filter((key) => value[key] !== undefined && value[key] !== null)
    .map((key) => `${WORDS[key] ?? key} ${told(names, key, value[key])}`)
  return parts.join(', ') || calledOf(names, value) || 'there'
}

function yieldsWords(names: Names, yields: Yield[]): string {
  return yields.map((given) => yieldWords(names, given)).join(' and ') || 'nothing'
}

/** What is given, without how many. */
function givesWords(names: Names, yields: Yield[]): string {
  return yields.map((given) => givenName(names, given)).join(' and ') || 'nothing'
}

function yieldWords(names: Names, given: Yield): string {
  const many = given.quantity ? quantityText(given.quantity) : '1'
  const name = givenName(names, given)
  return many === '1' ? name : `${many} ${name}`
}

function givenName(names: Names, given: Yield): string {
  const what = (['item', 'table', 'source'] as const).find((kind) => given[kind])
  const pool = given.pool && [
    'any',
    ...given.pool.tiers.map((one) => nameOf(names, 'tier', one)),
    ...given.pool.tags,
  ]
  return what ? nameOf(names, what, given[what] ?? '') : (pool || ['nothing']).join(' ')
}

const nameOf = (names: Names, kind: Kind, id: string) => names.of[kind]?.[id] ?? id

const LONGEST = 80

const KIND_OF: Record<string, Kind> = {
  item: 'item',
  table: 'table',
  spawns: 'table',
  source: 'source',
  curve: 'curve',
  nothing_curve: 'curve',
  tier: 'tier',
  tiers: 'tier',
  needs: 'flag',
  unless: 'flag',
  sets: 'flag',
  flags: 'flag',
}

const WORDS: Record<string, string> = {
  yields: 'gives',
  sure_at: 'sure at',
  nothing: 'blank weight',
  nothing_curve: 'curve of the blank',
  from_: 'from',
  drops: 'drops',
  lines: 'lines',
}

const isThing = (key: string) => ['lines', 'drops', 'bands', 'legs'].includes(key)

function isQuantity(value: Value): value is Holder {
  return (
    isHolder(value) && ('dice' in value || ('min' in value && 'max' in value && 'step' in value))
  )
}

function isHolder(value: Value): value is Holder {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

type Thing = Holder & { id: string }

function isListed(value: Value): value is Thing[] {
  return Array.isArray(value) && value.every((one) => isHolder(one) && typeof one.id === 'string')
}

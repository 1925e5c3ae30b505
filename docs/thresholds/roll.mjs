// Rolls events from a thresholds document, fed with the draws of a vectors document, and tells where what fell is other
// than there: node roll.mjs thresholds.json vectors.json
import { readFileSync } from 'node:fs'

const WHOLE = 2 ** 32
const read = (path) => JSON.parse(readFileSync(path, 'utf8'))
const by = (list) => Object.fromEntries(list.map((one) => [one.id, one]))

class Roller {
  constructor(document, depth, flags) {
    this.tables = by(document.tables)
    this.sources = by(document.sources)
    this.pools = document.pools
    this.depth = depth
    this.flags = new Set(flags)
    this.misses = {}
    this.hits = {}
    this.decks = {}
  }

  event(source, draws) {
    this.draws = draws.slice()
    this.got = {}
    this.meet(source)
    if (this.draws.length) throw new Error(`${this.draws.length} draws left`)
    return this.got
  }

  draw(what) {
    const draw = this.draws.shift()
    if (draw?.for !== what) throw new Error(`wants a draw for ${what}, there is one for ${draw?.for}`)
    return draw
  }

  span(one) {
    const flags = (one.asks ?? []).filter((flag) => this.flags.has(flag)).sort()
    return one.spans.find(
      (span) =>
        span.from <= this.depth &&
        this.depth <= span.to &&
        (span.flags ?? []).join() === flags.join(),
    )
  }

  quantity(one, what) {
    let number = one.min
    if (one.dice !== undefined) {
      const [, count, sides, plus] = /^(\d*)d(\d+)([+-]\d+)?$/.exec(one.dice)
      number = Number(plus ?? 0)
      for (let at = 0; at < Number(count || 1); at += 1)
        number += 1 + Math.floor(this.draw(`${what}, die`).d * Number(sides))
    } else {
      const values = Math.floor((one.max - one.min) / one.step) + 1
      if (values > 1) number += one.step * Math.floor(this.draw(`${what}, how many`).d * values)
    }
    const exact = Math.max(number, 0) * one.factor
    const near = Math.round(exact)
    if (exact === near || Math.abs(exact - near) < 1e-12 * near) return near
    const low = Math.floor(exact)
    return low + (this.draw(`${what}, rounded`).d < exact - low ? 1 : 0)
  }

  meet(source) {
    for (const drop of this.span(this.sources[source])?.drops ?? []) {
      const key = `${source}/${drop.id}`
      if (!this.tested(drop, this.draw(`drop ${key}`), key)) continue
      const times = this.quantity(drop.times, `drop ${key}`)
      for (let at = 0; at < times; at += 1) this.open(drop.table)
    }
  }

  open(name) {
    const table = this.tables[name]
    const span = this.span(table)
    if (!span) return
    const taken = new Set()
    const rolls = this.quantity(span.rolls, `rolls of ${name}`)
    for (let roll = 0; roll < rolls; roll += 1)
      for (const line of this.rolled(table, span, taken))
        for (const given of line.yields) this.give(given, `${name}/${line.id}`)
  }

  give(given, what) {
    const many = this.quantity(given.quantity, what)
    for (let at = 0; at < many; at += 1) {
      if (given.table !== undefined) this.open(given.table)
      else if (given.source !== undefined) this.meet(given.source)
      else if (given.item !== undefined) this.receive(given.item)
      else {
        const items = this.span(this.pools[given.pool])?.items ?? []
        if (!items.length) continue
        const { u } = this.draw(`pool ${given.pool}`)
        this.receive(items.find((one) => u < one.below).id)
      }
    }
  }

  receive(item) {
    this.got[item] = (this.got[item] ?? 0) + 1
  }

  rolled(table, span, taken) {
    const name = table.id
    if (table.rule === 'deck') return this.card(name, span.lines)
    const lines = span.lines.filter((line) => this.isOpen(name, line))
    const tries = (line) => this.tested(line, this.draw(`${name}/${line.id}`), `${name}/${line.id}`)
    if (table.rule === 'each') return lines.filter(tries)
    const first = table.rule === 'first' ? lines.find(tries) : null
    if (table.rule === 'first') return first ? [first] : []
    const able = lines.filter((line) => !taken.has(line.id))
    const chosen = table.rule === 'retry' ? this.retried(table, lines) : this.picked(table, span, able)
    if (table.dynamic)
      for (const line of table.rule === 'retry' ? lines : able)
        this.count(`${name}/${line.id}`, line === chosen)
    if (chosen && table.distinct) taken.add(chosen.id)
    return chosen ? [chosen] : []
  }

  picked(table, span, lines) {
    if (table.dynamic) return this.due(table.id, lines) ?? this.byWeight(table.id, lines, span.nothing, true)
    const { u } = this.draw(table.id)
    return lines.find((line) => u < line.below)
  }

  retried(table, lines) {
    const due = table.dynamic ? this.due(table.id, lines) : undefined
    if (due) return due
    for (let at = 0; at < table.tries; at += 1) {
      const line = table.dynamic
        ? this.byWeight(table.id, lines, 0, false)
        : this.picked(table, null, lines)
      if (!line) return undefined
      const key = `${table.id}/${line.id}`
      const chance = Math.min(1, line.hit / WHOLE + this.risen(key, line))
      if (below(this.draw(`${key}, hit`), line.hit, chance)) return line
    }
    return undefined
  }

  byWeight(name, lines, nothing, rises) {
    const weights = lines.map(
      (line) => line.weight * (1 + (rises ? this.risen(`${name}/${line.id}`, line) : 0)),
    )
    const total = nothing + weights.reduce((a, b) => a + b, 0)
    if (!(total > 0)) return undefined
    const at = this.draw(name).d * total
    let low = 0
    for (const [n, line] of lines.entries()) {
      low += weights[n]
      if (at < low) return line
    }
    return nothing === 0 ? lines.findLast((_, n) => weights[n] > 0) : undefined
  }

  card(name, lines) {
    const deck = (this.decks[name] ??= lines.map(() => 0))
    const left = () => deck.reduce((a, b) => a + b, 0)
    if (!left()) lines.forEach((line, at) => (deck[at] = this.isOpen(name, line) ? line.copies : 0))
    if (!left()) return []
    let place = Math.floor(this.draw(`deck ${name}`).d * left())
    const at = deck.findIndex((many) => {
      if (place < many) return true
      place -= many
      return false
    })
    deck[at] -= 1
    this.hits[`${name}/${lines[at].id}`] = (this.hits[`${name}/${lines[at].id}`] ?? 0) + 1
    if (!this.isOpen(name, lines[at])) deck[at] = 0
    return [lines[at]]
  }

  isOpen(name, line) {
    return line.limit === undefined || (this.hits[`${name}/${line.id}`] ?? 0) < line.limit
  }

  risen(key, part) {
    return part.guard ? part.guard.rise * Math.max(0, (this.misses[key] ?? 0) - part.guard.after) : 0
  }

  isDue(key, part) {
    return part.guard?.sure_at !== undefined && (this.misses[key] ?? 0) + 1 >= part.guard.sure_at
  }

  due(name, lines) {
    return lines.find((line) => this.isDue(`${name}/${line.id}`, line))
  }

  tested(part, draw, key) {
    const chance = this.isDue(key, part) ? 1 : Math.min(1, part.below / WHOLE + this.risen(key, part))
    const hit = below(draw, part.below, chance)
    this.count(key, hit)
    return hit
  }

  count(key, hit) {
    this.hits[key] = (this.hits[key] ?? 0) + (hit ? 1 : 0)
    this.misses[key] = hit ? 0 : (this.misses[key] ?? 0) + 1
  }
}

/** By whole numbers, unless what is carried has changed the chance. */
const below = (draw, bound, chance) => (chance === bound / WHOLE ? draw.u < bound : draw.d < chance)

const document = read(process.argv[2])
let events = 0
let wrong = 0
for (const vector of read(process.argv[3]).vectors) {
  const roller = new Roller(document, vector.depth, vector.flags)
  for (const { draws, got } of vector.events) {
    const mine = roller.event(vector.source, draws)
    const same = (all, other) => Object.entries(all).every(([item, many]) => other[item] === many)
    events += 1
    if (same(mine, got) && same(got, mine)) continue
    wrong += 1
    console.log(`${vector.source} at ${vector.depth}: ${JSON.stringify(mine)}, wanted ${JSON.stringify(got)}`)
  }
}
console.log(`${events} events, ${wrong} other than wanted`)
process.exit(wrong ? 1 : 0)

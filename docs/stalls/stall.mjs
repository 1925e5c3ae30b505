// What a stall has on sale: a short program of its own, as a game's server would have it.
//   node stall.mjs STALL.json 2031-04-01T12:00:00Z 30
// STALL.json as in stall.py. Whole numbers of 64 bits are BigInt.
import { readFileSync } from 'node:fs'
import { pathToFileURL } from 'node:url'

const WORD = (1n << 64n) - 1n
const GOLDEN = 0x9e3779b97f4a7c15n
const MIX_1 = 0xbf58476d1ce4e5b9n
const MIX_2 = 0x94d049bb133111ebn

function mix(z) {
  z = ((z ^ (z >> 30n)) * MIX_1) & WORD
  z = ((z ^ (z >> 27n)) * MIX_2) & WORD
  return z ^ (z >> 31n)
}

const turned = (word, by) => ((word << by) | (word >> (64n - by))) & WORD

/** Numbers in [0, 1), one after another. */
function stream(seed, number) {
  let at = mix((BigInt(seed) + GOLDEN) & WORD) ^ mix((BigInt(number) * GOLDEN + MIX_1) & WORD)
  let [a, b, c, d] = [0, 1, 2, 3].map(() => {
    at = (at + GOLDEN) & WORD
    return mix(at)
  })
  return () => {
    const result = (turned((a + d) & WORD, 23n) + a) & WORD
    const shifted = (b << 17n) & WORD
    c ^= a
    d ^= b
    b ^= c
    a ^= d
    c ^= shifted
    d = turned(d, 45n)
    return Number(result >> 11n) * 2 ** -53
  }
}

/** The first whose running sum over the sum of all that are left is above the next number. */
function picked(next, left) {
  const total = left.reduce((sum, [, weight]) => sum + weight, 0)
  const number = next()
  let running = 0
  for (const [name, weight] of left) {
    running += weight
    if (number < running / total) return name
  }
  return left[left.length - 1][0]
}

function drawn(stall, period) {
  const next = stream(stall.seed, period)
  const slots = new Map()
  let left = [...stall.goods]
  const fill = (slot, among) => {
    slots.set(slot, picked(next, among))
    left = left.filter(([name]) => name !== slots.get(slot))
  }
  for (const { slot, goods } of stall.fixed ?? []) {
    const fitting = left.filter(([name]) => goods.includes(name))
    if (fitting.length) fill(slot, fitting)
  }
  for (let slot = 1; slot <= stall.slots; slot += 1) if (!slots.has(slot)) fill(slot, left)
  return Array.from({ length: stall.slots }, (_, at) => slots.get(at + 1))
}

function dealt(stall, period) {
  const rounds = Math.ceil(stall.goods.length / stall.slots)
  const next = stream(stall.seed, Math.floor(period / rounds))
  const order = []
  let left = [...stall.goods]
  while (left.length) {
    const name = picked(next, left)
    order.push(name)
    left = left.filter(([other]) => other !== name)
  }
  const place = (period % rounds) * stall.slots
  const part = order.slice(place, place + stall.slots)
  const front = order.filter((name) => !part.includes(name))
  return [...part, ...front.slice(0, stall.slots - part.length)]
}

export function onSale(stall, period) {
  if (period < 0) return []
  return stall.way === 'deal' ? dealt(stall, period) : drawn(stall, period)
}

export const periodAt = (stall, seconds) =>
  Math.floor((seconds - stall.starts_at) / stall.period_seconds)

if (import.meta.url === pathToFileURL(process.argv[1] ?? '').href) {
  const [path, moment, count] = process.argv.slice(2)
  const stall = JSON.parse(readFileSync(path, 'utf8'))
  const first = periodAt(stall, Date.parse(moment) / 1000)
  const periods = Array.from({ length: Number(count) }, (_, at) => onSale(stall, first + at))
  console.log(JSON.stringify(periods))
}

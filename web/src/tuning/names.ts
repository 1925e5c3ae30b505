// Numbers that move, in words.
import type { TuneOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { nameOfLine, yieldName } from '@/game/words'
import { figures } from '@/text/format'

type Moving = Pick<TuneOut['numbers'][number], 'where' | 'kind' | 'id' | 'part' | 'sort'>

const SORTS: Record<string, string> = {
  weight: 'weight',
  chance: 'chance',
  rise: 'rise of the guard',
  after: 'misses before the guard',
  'sure-at': 'sure at',
  least: 'least',
  most: 'most',
  copies: 'copies',
}

/** "Eel catch, Furnace seal: weight"; "Wanes at 14". */
export function numberName(parts: Parts, number: Moving): string {
  if (number.kind === 'curve') {
    return `${parts.curve.get(number.id)?.name ?? number.id} at ${number.part}`
  }
  const owner = parts[number.kind].get(number.id)?.name ?? number.id
  if (number.sort === 'nothing') return `${owner}, nothing: weight`
  const what = `${SORTS[number.sort] ?? number.sort}${ofWhat(parts, number)}`
  return `${owner}, ${partName(parts, number)}: ${what}`
}

/** Of a bundle, which of what it gives. */
function ofWhat(parts: Parts, { where, kind, id, part }: Moving): string {
  const line = kind === 'table' && parts.table.get(id)?.lines.find((one) => one.id === part)
  const number = /(?:least|most)(?:-(\d+))?$/.exec(where)
  if (!line || !number || line.yields.length < 2) return ''
  const given = line.yields[Number(number[1] ?? 1) - 1]
  return given ? ` of ${yieldName(parts, given)}` : ''
}

function partName(parts: Parts, { kind, id, part }: Moving): string {
  if (kind === 'source') {
    const drop = parts.source.get(id)?.drops.find((one) => one.id === part)
    return parts.table.get(drop?.table ?? '')?.name ?? part
  }
  return nameOfLine(parts, parts.table.get(id), part)
}

/** By how much: "+12 %", "×3.4". */
export function sizeWords(before: number, after: number): string {
  if (!before) return after ? 'new' : ''
  const ratio = after / before
  if (ratio >= 2) return `×${figures(ratio)}`
  if (ratio > 0 && ratio <= 0.5) return `÷${figures(1 / ratio)}`
  return `${ratio >= 1 ? '+' : '−'}${figures(100 * Math.abs(ratio - 1), 2)}\u202f%`
}

// Goods of a stall as they are drawn and called.
import type { Stall } from '@/api/types'
import type { Parts } from '@/game/parts'
import { nameOfLine } from '@/game/words'

export const goodName = (parts: Parts, stall: Stall, line: string) =>
  nameOfLine(parts, parts.table.get(stall.stock), line)

export function colourOf(parts: Parts, stall: Stall, line: string): string {
  const given = parts.table.get(stall.stock)?.lines.find((one) => one.id === line)?.yields[0]
  const tier = given?.item ? parts.item.get(given.item)?.tier : given?.pool?.tiers[0]
  return parts.tier.get(tier ?? '')?.colour ?? '#12312c'
}

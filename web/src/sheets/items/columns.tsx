import { Becoming } from '@/tuning/Becoming'
import type { Item, Tier } from '@/api/types'
import type { Parts } from '@/game/parts'
import { entered, written } from '@/text/format'
import { readNumber, typedNumber } from '@/text/numbers'
import type { Column } from '@/ui/grid/columns'
import { nameColumn } from '@/ui/grid/nameColumn'
import { TierMark } from '@/ui/Marks'
import { readCells } from '@/text/readers'
import { Explained } from '@/ui/Explained'

export function tierColumns(parts: Parts): Column<Tier>[] {
  return [
    nameColumn('a tier', '1fr', (tier) => <TierMark tier={tier} />),
    {
      key: 'pips',
      head: <Explained term="pips" />,
      label: 'pips',
      width: '64px',
      align: 'right',
      text: (tier) => String(tier.pips),
      show: (tier) => <span className="num">{tier.pips}</span>,
      enter: (tier, text) => wholeNumber(text, 1, 6, (pips) => ({ ...tier, pips })),
    },
    {
      key: 'colour',
      head: 'colour',
      label: 'colour',
      width: '140px',
      text: (tier) => tier.colour,
      show: (tier) => (
        <span className="flex items-center gap-2">
          <span className="h-3 w-8 border border-hair" style={{ background: tier.colour }} />
          <span className="num">{tier.colour}</span>
        </span>
      ),
      enter: (tier, text) =>
        /^#?[0-9a-f]{6}$/i.test(text.trim())
          ? { ...tier, colour: `#${text.trim().replace('#', '').toLowerCase()}` }
          : 'a colour is written #rrggbb',
    },
    {
      key: 'curve',
      head: 'scaled with depth by',
      label: 'curve',
      width: '150px',
      text: (tier) => parts.curve.get(tier.curve ?? '')?.name ?? '',
      enter: (tier, text) => {
        const wanted = text.trim().toLowerCase()
        if (!wanted) return { ...tier, curve: null }
        const curve = [...parts.curve.values()].find((one) => one.name.toLowerCase() === wanted)
        return curve ? { ...tier, curve: curve.id } : `there is no curve called “${text}”`
      },
      suggest: (text) =>
        [...parts.curve.values()]
          .filter((one) => one.name.toLowerCase().includes(text.trim().toLowerCase()))
          .map((one) => ({ text: one.name })),
    },
    {
      key: 'stats',
      head: <Explained term="stats ×" />,
      label: 'factor of stats',
      width: '70px',
      align: 'right',
      text: (tier) => entered(tier.stat_factor),
      show: (tier) => <span className="num">×{written(tier.stat_factor)}</span>,
      enter: (tier, text) => {
        const factor = typedNumber(text.replace('×', ''))
        return factor === null || factor <= 0
          ? 'a factor is a number above 0'
          : { ...tier, stat_factor: factor }
      },
    },
  ]
}

export function itemColumns(parts: Parts): Column<Item>[] {
  const tiers = [...parts.tier.values()]
  return [
    nameColumn('an item', 'minmax(150px,1.4fr)', (item) => (
      <TierMark tier={parts.tier.get(item.tier)} />
    )),
    {
      key: 'tier',
      head: 'tier',
      label: 'tier',
      width: '110px',
      text: (item) => parts.tier.get(item.tier)?.name ?? item.tier,
      enter: (item, text) => {
        const wanted = text.trim().toLowerCase()
        const tier = tiers.find((one) => one.name.toLowerCase() === wanted || one.id === wanted)
        const names = tiers.map((one) => one.name).join(', ')
        return tier ? { ...item, tier: tier.id } : `there is no tier “${text}”; there are ${names}`
      },
      offer: (text) => ({ kind: 'tier', name: text.trim() }),
      suggest: (text) =>
        tiers
          .filter((tier) => tier.name.toLowerCase().includes(text.trim().toLowerCase()))
          .map((tier) => ({ text: tier.name, mark: <TierMark tier={tier} /> })),
    },
    {
      key: 'value',
      head: parts.settings.currency === 'value' ? 'value' : `value, ${parts.settings.currency}`,
      label: 'value',
      width: '96px',
      align: 'right',
      text: (item) => entered(item.value),
      show: (item) => (
        <Becoming kind="item" id={item.id} part="" sort="value" written={entered}>
          <span className="num">{written(item.value)}</span>
        </Becoming>
      ),
      enter: (item, text) => number(text, (value) => ({ ...item, value })),
    },
    {
      key: 'stack',
      head: <Explained term="stack" />,
      label: 'stack limit',
      width: '70px',
      align: 'right',
      text: (item) => String(item.stack),
      show: (item) => <span className="num">{item.stack}</span>,
      enter: (item, text) => wholeNumber(text, 1, 1e9, (stack) => ({ ...item, stack })),
    },
    {
      key: 'cells',
      head: <Explained term="cells" />,
      label: 'cells it takes, wide and high',
      width: '64px',
      align: 'right',
      text: (item) => `${item.width} × ${item.height}`,
      show: (item) => (
        <span className="num">
          {item.width} × {item.height}
        </span>
      ),
      enter: (item, text) => {
        const size = readCells(text)
        const [width, height] = typeof size === 'string' ? [0, 0] : size
        return width >= 1 && height >= 1 && width <= 100 && height <= 100
          ? { ...item, width, height }
          : 'cells are written 2 × 1, each 1 to 100'
      },
    },
    {
      key: 'money',
      head: <Explained term="money" />,
      label: 'whether prices are paid in it',
      width: '76px',
      text: (item) => (item.currency ? 'yes' : ''),
      enter: (item, text) => {
        const yes = /^\s*(yes|y|true|1)\s*$/i.test(text)
        return yes || /^\s*(no|n|false|0|)\s*$/i.test(text)
          ? { ...item, currency: yes }
          : 'yes, or nothing'
      },
      suggest: () => [{ text: 'yes' }, { text: 'no' }],
    },
    {
      key: 'abundance',
      head: <Explained term="abundance" />,
      label: 'abundance inside pools',
      width: '108px',
      align: 'right',
      text: (item) => entered(item.abundance),
      show: (item) => <span className="num">{written(item.abundance)}</span>,
      enter: (item, text) => number(text, (abundance) => ({ ...item, abundance })),
    },
    {
      key: 'tags',
      head: 'tags',
      label: 'tags',
      width: 'minmax(110px,1fr)',
      text: (item) => item.tags.join(', '),
      enter: (item, text) => ({
        ...item,
        tags: [...new Set(text.split(',').map((tag) => tag.trim().toLowerCase()))].filter(Boolean),
      }),
    },
  ]
}

function number<Row>(text: string, make: (value: number) => Row): Row | string {
  const value = readNumber(text)
  return typeof value === 'string' ? value : make(value)
}

function wholeNumber<Row>(
  text: string,
  low: number,
  high: number,
  make: (value: number) => Row,
): Row | string {
  const value = typedNumber(text)
  if (value === null || !Number.isInteger(value) || value < low || value > high)
    return `a whole number from ${low} to ${high}`
  return make(value)
}

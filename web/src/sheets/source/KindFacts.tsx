// What only one kind of source has: a container's cells, a node's charges, a parcel's price.
import type { Item, Source } from '@/api/types'
import type { Answer, Changed } from '@/game/edit'
import { useGame } from '@/game/store'
import { itemByName } from '@/game/words'
import { EditText } from '@/ui/EditText'
import { entered } from '@/text/format'
import { typedNumber } from '@/text/numbers'

type Save = (label: string, changed: Changed<'source'>) => Answer

export function KindFacts({ source, onSave }: { source: Source; onSave: Save }) {
  if (source.kind === 'node') return <Charges source={source} onSave={onSave} />
  if (source.kind === 'container') return <Cells source={source} onSave={onSave} />
  if (source.kind === 'parcel') return <Price source={source} onSave={onSave} />
  return null
}

function Charges({ source, onSave }: { source: Source; onSave: Save }) {
  return (
    <span>
      <EditText
        label="charges"
        text={source.charges ? String(source.charges) : 'any number of'}
        onCommit={(text) => {
          const charges = typedNumber(text)
          if (/^\s*(any|$)/i.test(text)) return onSave('charges', { charges: null })
          return charges === null
            ? { message: 'charges are a whole number, or any' }
            : onSave('charges', { charges })
        }}
      />{' '}
      charges, back after{' '}
      <EditText
        label="respawn seconds"
        text={
          source.respawn_seconds === null || source.respawn_seconds === undefined
            ? 'never'
            : entered(source.respawn_seconds)
        }
        onCommit={(text) => {
          const seconds = typedNumber(text)
          if (/^\s*(never|$)/i.test(text)) return onSave('respawn', { respawn_seconds: null })
          return seconds === null
            ? { message: 'seconds are a number, or never' }
            : onSave('respawn', { respawn_seconds: seconds })
        }}
      />
      {source.respawn_seconds === null ? '' : ' s'}
    </span>
  )
}

function Cells({ source, onSave }: { source: Source; onSave: Save }) {
  return (
    <span>
      holds{' '}
      <EditText
        label="cells"
        text={source.cells ? source.cells.join(' × ') : 'anything'}
        onCommit={(text) => {
          if (/^\s*(anything|$)/i.test(text)) return onSave('cells', { cells: null })
          const found = /^\s*(\d+)\s*[x×*]\s*(\d+)\s*$/i.exec(text)
          return found
            ? onSave('cells', { cells: [Number(found[1]), Number(found[2])] })
            : { message: 'cells are written 4 × 3, or anything' }
        }}
      />
      {source.cells ? ' cells' : ''}
    </span>
  )
}

function Price({ source, onSave }: { source: Source; onSave: Save }) {
  const parts = useGame((state) => state.parts)
  const price = source.price
  const currency = [...parts.item.values()].find((item) => item.currency)
  const paid = parts.item.get(price?.item ?? '') ?? currency
  const text = price ? `${price.amount} ${paid?.name ?? price.item}` : 'nothing'
  return (
    <span>
      costs{' '}
      <EditText
        label="price"
        text={text}
        inputClass="num w-36"
        onCommit={(typed) => {
          if (/^\s*(nothing|$)/i.test(typed)) return onSave('price', { price: null })
          const read = typedPrice(typed, (name) => itemByName(parts, name) ?? null, paid)
          return typeof read === 'string' ? { message: read } : onSave('price', { price: read })
        }}
      />
    </span>
  )
}

/** Read "150", or "150 Brass token"; without a name the item that is paid with now. */
function typedPrice(
  text: string,
  itemOf: (name: string) => Item | null,
  paid: Item | undefined,
): { item: string; amount: number } | string {
  const found = /^\s*([\d\s\u202f]+)(.*)$/.exec(text)
  const amount = typedNumber(found?.[1] ?? '')
  if (!found || amount === null) return 'a price is written 150 and the name of an item'
  const name = (found[2] ?? '').trim()
  const item = name === '' ? paid : itemOf(name)
  if (item) return { item: item.id, amount }
  return name
    ? `there is no item “${name}”`
    : 'no item is money yet: say so in the catalogue, or write 150 and the name of one'
}

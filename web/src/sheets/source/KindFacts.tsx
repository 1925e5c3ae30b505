// What only one kind of source has: a container's cells, a node's charges, a parcel's price.
import type { Source } from '@/api/types'
import type { Answer, Changed } from '@/game/edit'
import { useGame } from '@/game/store'
import { EditText } from '@/ui/EditText'
import { entered } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { HINTS, readCells, readPrice, readSpan } from '@/text/readers'

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
        hint={HINTS.span}
        text={
          source.respawn_seconds === null || source.respawn_seconds === undefined
            ? 'never'
            : entered(source.respawn_seconds)
        }
        onCommit={(text) => {
          if (/^\s*(never|$)/i.test(text)) return onSave('respawn', { respawn_seconds: null })
          const seconds = readSpan(text)
          return typeof seconds === 'string'
            ? { message: `${seconds}; or never` }
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
        hint={HINTS.cells}
        text={source.cells ? source.cells.join(' × ') : 'anything'}
        onCommit={(text) => {
          if (/^\s*(anything|$)/i.test(text)) return onSave('cells', { cells: null })
          const cells = readCells(text)
          return typeof cells === 'string'
            ? { message: `${cells}; or anything` }
            : onSave('cells', { cells })
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
        hint={HINTS.price}
        text={text}
        inputClass="num w-36"
        onCommit={(typed) => {
          if (/^\s*(nothing|$)/i.test(typed)) return onSave('price', { price: null })
          const read = readPrice(typed, [...parts.item.values()], paid)
          return typeof read === 'string' ? { message: read } : onSave('price', { price: read })
        }}
      />
    </span>
  )
}

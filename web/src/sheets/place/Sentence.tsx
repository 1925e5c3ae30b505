// What a place is, as a sentence whose words are choices.
import type { Place } from '@/api/types'
import { show, useGame } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { entered } from '@/text/format'
import { readCells, readRange } from '@/text/readers'
import { readChance } from '@/text/numbers'
import { change } from '@/game/edit'
import { resized } from './edits'

export function Sentence({ place }: { place: Place }) {
  const parts = useGame((state) => state.parts)
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  const stocks = [...parts.table.values()].filter((table) => table.rule === 'pick')
  const filled = place.filled
  const isCount = typeof filled !== 'number'
  return (
    <p className="text-body leading-7 text-muted">
      At {word}s{' '}
      <EditText
        label={`${word}s of the place`}
        text={place.depths ? place.depths.join('-') : 'all'}
        onCommit={(text) => {
          const range = readRange(text, [from, to])
          return typeof range === 'string'
            ? { message: range }
            : change('place', place.id, 'depths', { depths: range })
        }}
      />
      , a plan of{' '}
      <EditText
        label="size of the plan"
        text={place.size.join(' × ')}
        onCommit={(text) => {
          const size = readCells(text)
          return typeof size === 'string'
            ? { message: size }
            : change('place', place.id, 'size', (now) => resized(now, size))
        }}
      />{' '}
      cells;{' '}
      <Choice
        label="how it is set out"
        value={place.way}
        options={{
          'shared-out': 'numbers are shared out, rarest first,',
          'each-rolls': 'every spot rolls by itself,',
        }}
        onChange={(way) =>
          void change('place', place.id, 'how it is set out', {
            way: way as Place['way'],
            ...(way === 'each-rolls' && { least: [], filled: isCount ? 0.6 : filled }),
          })
        }
      />{' '}
      so that{' '}
      <EditText
        label="how many spots are filled"
        text={isCount ? String(filled.count) : `${entered(filled, 100)} %`}
        onCommit={(text) => {
          const count = /^\s*\d+\s*$/.test(text) ? Number(text) : null
          if (count !== null && place.way === 'shared-out')
            return change('place', place.id, 'filled', { filled: { count } })
          const share = readChance(text)
          return typeof share === 'string'
            ? { message: share }
            : change('place', place.id, 'filled', { filled: share })
        }}
      />{' '}
      of <span className="num text-ink">{place.spots.length}</span> spots are filled from{' '}
      <Choice
        label="stock"
        value={place.stock}
        options={Object.fromEntries(stocks.map((table) => [table.id, table.name]))}
        onChange={(stock) => void change('place', place.id, 'stock', { stock, least: [] })}
      />{' '}
      <button
        type="button"
        className="label hover:text-ink"
        onClick={() => show({ kind: 'table', id: place.stock })}
      >
        open it
      </button>
    </p>
  )
}

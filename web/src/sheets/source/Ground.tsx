// What fell lies on the ground: for how long, when the player gets to it, and what is out of reach.
import type { Source } from '@/api/types'
import { quantityText, typedQuantity } from '@/game/words'
import type { Answer, Changed } from '@/game/edit'
import { EditText } from '@/ui/EditText'
import { Menu } from '@/ui/Menu'
import { entered } from '@/text/format'
import { readChance, typedNumber } from '@/text/numbers'

type Save = (label: string, changed: Changed<'source'>) => Answer

export function Ground({ source, onSave }: { source: Source; onSave: Save }) {
  const lasts = source.lasts ?? null
  if (lasts === null && !source.missed)
    return (
      <Menu
        label="what becomes of what falls"
        trigger={
          <button type="button" className="label hover:text-ink">
            all is picked up
          </button>
        }
        entries={[
          {
            label: 'A part of it is out of reach',
            run: () => void onSave('out of reach', { missed: 0.1 }),
          },
          {
            label: 'It lies for a minute, and is picked up in 5 to 30 s',
            run: () =>
              void onSave('how long it lies', { lasts: 60, pick_up: typedQuantity('5-30', null) }),
          },
        ]}
      />
    )
  return (
    <span>
      what fell lies{' '}
      <EditText
        label="seconds that what fell lies there"
        text={lasts === null ? 'for good' : entered(lasts)}
        className="choice num text-ink"
        onCommit={(text) => {
          if (/^\s*(for good|good|$)/i.test(text))
            return onSave('how long it lies', { lasts: null })
          const seconds = typedNumber(text)
          return seconds === null
            ? { message: 'seconds are a number, or for good' }
            : onSave('how long it lies', { lasts: seconds })
        }}
      />
      {lasts !== null && (
        <>
          {' '}
          s, picked up after{' '}
          <EditText
            label="seconds until it is picked up"
            text={source.pick_up ? quantityText(source.pick_up) : '0'}
            className="choice num text-ink"
            onCommit={(text) =>
              onSave('when it is picked up', {
                pick_up:
                  text.trim() === '0' ? null : typedQuantity(text, source.pick_up?.curve ?? null),
              })
            }
          />{' '}
          s
        </>
      )}
      {', '}
      <EditText
        label="chance to be out of reach"
        text={source.missed ? `${entered(source.missed, 100)} %` : 'none'}
        className="choice num text-ink"
        onCommit={(text) => {
          const missed = /^\s*(none|$)/i.test(text) ? 0 : readChance(text)
          return typeof missed === 'string'
            ? { message: missed }
            : onSave('out of reach', { missed })
        }}
      />{' '}
      out of reach
    </span>
  )
}

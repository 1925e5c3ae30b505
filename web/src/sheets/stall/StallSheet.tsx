// A stall: what is on sale in each period, goods in fixed columns so that one sees where one is missing; how long it is
// missed, and whether whoever looks now and then sees it.
import { Pending } from '@/ui/Pending'
import { useMemo, useState } from 'react'
import { useStall } from '@/game/queries'
import type { Stall } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { Findings } from '@/sheets/Findings'
import { Title } from '@/sheets/Title'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { entered, typedDepth } from '@/text/format'
import { Notes } from '@/ui/Notes'
import { typedNumber } from '@/text/numbers'
import { HINTS, readSpan } from '@/text/readers'
import { Calendar, SHOWN } from './Calendar'
import { change } from '@/game/edit'
import { Goods } from './Goods'

export function StallSheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const stall = parts.stall.get(id)
  const [moment, setMoment] = useState<string | null>(null)
  const [look, setLook] = useState({ every: 1, times: 7 })
  const now = useMemo(() => new Date().toISOString().slice(0, 19) + 'Z', [])
  const told = useStall({
    stall: id,
    at: moment ?? now,
    count: SHOWN,
    look_every: look.every,
    looks: look.times,
  })
  const { data } = told
  if (!stall) return <p className="p-6 text-muted">This stall is gone.</p>
  return (
    <div className="px-5 pb-10 pt-3">
      <header className="border-b border-hair pb-2">
        <Title
          of="stall"
          id={id}
          name={stall.name}
          onRename={(name) => change('stall', stall.id, 'renamed', { name })}
        />
        <Sentence stall={stall} parts={parts} />
      </header>
      <Findings kind="stall" id={id} />
      {!data && <Pending of={told} what="what is on sale" />}
      <div className="flex flex-wrap gap-8 pt-3">
        <Calendar
          stall={stall}
          parts={parts}
          data={data}
          today={now}
          moment={moment}
          onMoment={setMoment}
        />
        <Goods stall={stall} parts={parts} data={data} look={look} onLook={setLook} />
      </div>
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the stall"
          text={stall.notes}
          onCommit={(notes) => change('stall', stall.id, 'notes', { notes })}
        />
      </div>
    </div>
  )
}

function Sentence({ stall, parts }: { stall: Stall; parts: Parts }) {
  const { from, to } = parts.settings.depth
  const stocks = [...parts.table.values()].filter((table) => table.rule === 'pick')
  const whole = (label: string, key: 'slots' | 'seed', least: number) => (
    <EditText
      label={label}
      text={String(stall[key])}
      inputClass="num w-28"
      onCommit={(text) => {
        const value = typedNumber(text)
        return value === null || !Number.isInteger(value) || value < least
          ? { message: `a whole number from ${least}` }
          : change('stall', stall.id, label, { [key]: value })
      }}
    />
  )
  return (
    <p className="text-body leading-7 text-muted">
      <Choice
        label="how goods come"
        value={stall.way}
        options={{ draw: 'Draws', deal: 'Deals in rounds' }}
        onChange={(way) =>
          void change('stall', stall.id, 'how goods come', {
            way: way as Stall['way'],
            ...(way === 'deal' && { fixed: [] }),
          })
        }
      />{' '}
      {whole('slots', 'slots', 1)} goods of{' '}
      <Choice
        label="stock"
        value={stall.stock}
        options={Object.fromEntries(stocks.map((table) => [table.id, table.name]))}
        onChange={(stock) => void change('stall', stall.id, 'stock', { stock })}
      />{' '}
      <button
        type="button"
        className="label hover:text-ink"
        onClick={() => show({ kind: 'table', id: stall.stock })}
      >
        open it
      </button>{' '}
      at {parts.settings.words?.depth ?? 'depth'}{' '}
      <EditText
        label="depth of the stall"
        text={String(stall.depth)}
        inputClass="num w-12"
        onCommit={(text) => {
          const depth = typedDepth(text, [from, to])
          return typeof depth === 'string'
            ? { message: depth }
            : change('stall', stall.id, 'depth', { depth })
        }}
      />
      , new every{' '}
      <EditText
        label="period"
        hint={HINTS.span}
        text={spanText(stall.period_seconds)}
        inputClass="num w-28"
        onCommit={(text) => {
          const seconds = readSpan(text)
          if (typeof seconds === 'string') return { message: seconds }
          return !Number.isInteger(seconds) || seconds < 1
            ? { message: 'a period is of whole seconds' }
            : change('stall', stall.id, 'period', { period_seconds: seconds })
        }}
      />
      , for{' '}
      <EditText
        label="price factor"
        text={entered(stall.price_factor)}
        inputClass="num w-16"
        onCommit={(text) => {
          const factor = typedNumber(text)
          return factor === null || factor < 0
            ? { message: 'a number from 0' }
            : change('stall', stall.id, 'price factor', { price_factor: factor })
        }}
      />{' '}
      times what they are worth; seed {whole('seed', 'seed', 0)}.
      <Fixed stall={stall} parts={parts} />
    </p>
  )
}

/** Slots that are filled first, from one tier. */
function Fixed({ stall, parts }: { stall: Stall; parts: Parts }) {
  if (stall.way === 'deal') return null
  const free = Array.from({ length: stall.slots }, (_, at) => at + 1).find(
    (slot) => !stall.fixed.some((one) => one.slot === slot),
  )
  const tiers = Object.fromEntries([...parts.tier.values()].map((tier) => [tier.id, tier.name]))
  const save = (fixed: Stall['fixed']) => void change('stall', stall.id, 'fixed slots', { fixed })
  return (
    <>
      {stall.fixed.map((one, at) => (
        <span key={one.slot}>
          {' '}
          Slot <span className="num text-ink">{one.slot}</span> is{' '}
          {one.tag ? (
            <span className="text-ink">“{one.tag}”</span>
          ) : (
            <Choice
              label={`tier of slot ${one.slot}`}
              value={one.tier ?? ''}
              options={tiers}
              onChange={(tier) =>
                save(stall.fixed.map((other, n) => (n === at ? { ...other, tier } : other)))
              }
            />
          )}
          <button
            type="button"
            aria-label={`slot ${one.slot} is any`}
            className="px-0.5 text-muted hover:text-bad"
            onClick={() => save(stall.fixed.filter((_, n) => n !== at))}
          >
            ×
          </button>
        </span>
      ))}
      {free !== undefined && (
        <button
          type="button"
          className="label ml-2 hover:text-ink"
          onClick={() =>
            save([
              ...stall.fixed,
              { slot: free, tier: parts.tier.keys().next().value ?? null, tag: null },
            ])
          }
        >
          + a fixed slot
        </button>
      )}
    </>
  )
}

const SPANS: [number, string][] = [
  [86_400, 'day'],
  [3_600, 'hour'],
  [60, 'min'],
  [1, 's'],
]

function spanText(seconds: number): string {
  const [by, word] = SPANS.find(([one]) => seconds % one === 0) ?? [1, 's']
  const many = seconds / by
  return `${many} ${word}${many !== 1 && by >= 3600 ? 's' : ''}`
}

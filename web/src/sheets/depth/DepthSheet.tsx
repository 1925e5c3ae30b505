// A source or table along all depths: tier shares, and any figure of every item, row by row beside the
// plumb line; lines for the items that are chosen; beside it another source, table or depth.
import { useState } from 'react'
import { useDepths } from '@/api/queries'
import type { DepthSheet as Sheet } from '@/api/types'
import { useGame } from '@/game/store'
import { AlongSwitch } from '@/app/AlongSwitch'
import { DepthFrame, useDepthScale } from '@/plots/DepthFrame'
import { DepthLines } from '@/plots/DepthLines'
import { TierShares } from '@/plots/TierShares'
import { Choice } from '@/ui/Choice'
import { CompareRows } from './CompareRows'
import { copyRows, DepthRows, bandRows, depthRows } from './DepthRows'
import { FIGURES, figuresOf, type Figure } from './figures'
import { columnsOf, inMet, ORDERS, type Column, type Order } from './columns'
import { useOther } from './other'

export function DepthSheet() {
  const { parts, sheet, depth } = useGame()
  const { data } = useDepths()
  const scale = useDepthScale()
  const [figure, setFigure] = useState<Figure>('per_100')
  const [of, setOf] = useState<'falls' | 'worth'>('falls')
  const [order, setOrder] = useState<Order>('here')
  const [byBand, setByBand] = useState(false)
  const [log, setLog] = useState(false)
  const [chosen, setChosen] = useState<string[]>([])
  const other = useOther()
  const part =
    sheet?.kind === 'source' ? parts.source.get(sheet.id) : parts.table.get(sheet?.id ?? '')
  if (!part) return <p className="p-6 text-muted">This is gone.</p>
  const told = { figure, perHour: data?.per_hour ?? 1 }
  const columns = data ? columnsOf(parts, data, told, order, depth) : []
  const rows = data
    ? byBand
      ? bandRows(data, columns, told, scale)
      : depthRows(data, columns, scale, depth)
    : []
  const toggle = (id: string) =>
    setChosen(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id])
  const lines = (of: Sheet, every: Column[], dashed: boolean) =>
    every
      .filter((column) => chosen.includes(column.item.id))
      .map((column) => ({
        id: column.item.id,
        name: dashed ? '' : column.item.name,
        colour: parts.tier.get(column.item.tier)?.colour ?? '#231c17',
        values: inMet(of, column.numbers),
        dashed,
      }))
  const otherColumns =
    other.data && other.view
      ? columnsOf(parts, other.data, { ...told, ...other.told }, order, depth)
      : []
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1.5">
        <div className="flex items-baseline gap-3">
          <span className="name truncate text-[24px] leading-8">{part.name}</span>
          <span className="ml-auto">
            <AlongSwitch />
          </span>
        </div>
        <div className="flex flex-wrap items-baseline gap-x-3 text-[12px] text-muted">
          <span>
            tiers of what{' '}
            <Choice
              label="tier shares of what"
              value={of}
              options={{ falls: 'falls', worth: 'it is worth' }}
              onChange={(next) => setOf(next as 'falls' | 'worth')}
            />
          </span>
          <span>
            items:{' '}
            <Choice
              label="figure"
              value={figure}
              options={figuresOf('seconds' in part)}
              onChange={(next) => setFigure(next as Figure)}
            />
          </span>
          {!other.on && (
            <>
              <Choice
                label="order of the items"
                value={order}
                options={ORDERS}
                onChange={(next) => setOrder(next as Order)}
              />
              <button type="button" className="choice text-ink" onClick={() => setByBand(!byBand)}>
                {byBand ? 'by band' : `by ${parts.settings.words?.depth ?? 'depth'}`}
              </button>
            </>
          )}
          <button type="button" className="choice text-ink" onClick={() => setLog(!log)}>
            {log ? 'log lines' : 'linear lines'}
          </button>
          <span>{other.choice}</span>
          {!other.on && (
            <button
              type="button"
              className="choice text-ink"
              onClick={() => copyRows(rows, columns, byBand ? 'band' : 'depth')}
            >
              copy the table
            </button>
          )}
        </div>
      </header>
      <DepthFrame>
        {data && (
          <div className="flex" style={{ width: 'max-content' }}>
            <div className="relative ml-3">
              {other.view && <Caption name={part.name} />}
              <TierShares sheet={data} of={of} scale={scale} width={92} />
            </div>
            {other.data && other.view && (
              <div className="relative ml-2">
                <Caption name={parts[other.view.kind].get(other.view.id)?.name ?? ''} />
                <TierShares sheet={other.data} of={of} scale={scale} width={92} />
              </div>
            )}
            {chosen.length > 0 && (
              <DepthLines
                scale={scale}
                log={log}
                title={FIGURES[figure]}
                lines={[
                  ...lines(data, columns, false),
                  ...(other.data ? lines(other.data, otherColumns, true) : []),
                ]}
              />
            )}
            {other.on ? (
              <CompareRows
                here={{ name: `${part.name} at ${depth}`, sheet: data, told, depth }}
                there={other.side(told)}
                figure={figure}
                height={scale.height}
                chosen={chosen}
                onChoose={toggle}
              />
            ) : (
              <DepthRows
                rows={rows}
                columns={columns}
                figure={figure}
                chosen={chosen}
                onChoose={toggle}
              />
            )}
          </div>
        )}
      </DepthFrame>
    </div>
  )
}

function Caption({ name }: { name: string }) {
  return (
    <span className="name absolute -top-[17px] w-full truncate text-[11.5px] leading-4">
      {name}
    </span>
  )
}

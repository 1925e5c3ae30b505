// A source or table along all depths: tier shares, and any figure of every item, row by row beside the
// plumb line; lines for the items that are chosen; beside it another source, table or depth.
import { Pending } from '@/ui/Pending'
import { useDepths } from '@/game/queries'
import type { DepthSheet as Sheet } from '@/api/types'
import { useGame, useGamePart, viewOf } from '@/game/store'
import { AlongSwitch } from '@/sheets/AlongSwitch'
import { DepthFrame, useDepthScale } from '@/plots/DepthFrame'
import { DepthLines } from '@/plots/DepthLines'
import { TierShares } from '@/plots/TierShares'
import { Choice } from '@/ui/Choice'
import { TierMark } from '@/ui/Marks'
import { CompareRows } from './CompareRows'
import { DepthRows } from './DepthRows'
import { holdAsItStands, type Wish } from '@/sheets/target/edits'
import { FIGURES, wishOf, type Figure } from './figures'
import { inMet, inOrder, isMet, itemColumns, type Column } from './columns'
import { bandRows, copyRows, depthRows, type Row } from './rows'
import { TellingChoices, useTelling } from './telling'
import { useOther } from './other'

export function DepthSheet() {
  const { parts, sheet, depth, shares } = useGamePart('parts', 'sheet', 'depth', 'shares')
  const telling = useTelling('per_100')
  const { figure, order, byBand, log, chosen, toggle } = telling
  const depths = useDepths({ swings: figure === 'cv' })
  const { data } = depths
  const scale = useDepthScale()
  const other = useOther(figure)
  const part =
    sheet?.kind === 'source' ? parts.source.get(sheet.id) : parts.table.get(sheet?.id ?? '')
  if (!part) return <p className="p-6 text-muted">This is gone.</p>
  const view = viewOf(sheet)
  const row = data?.depths.indexOf(depth) ?? 0
  const columns = data
    ? inOrder(itemColumns(parts, data, figure, data.per_hour ?? 1), order, row)
    : []
  const rows = data ? rowsOf(data, columns, byBand) : []
  const more = [parts.settings.currency, 'cv']
  const wishOfColumn = (what: string | number, figure: Figure, value: number): Wish | null =>
    typeof what === 'number'
      ? { figure: what === 0 ? 'value' : 'cv', wanted: value }
      : wishOf(figure, value, { item: what, tier: null })
  const otherColumns =
    other.data && other.view ? itemColumns(parts, other.data, figure, other.perHour) : []

  function rowsOf(data: Sheet, columns: Column[], byBand: boolean): Row[] {
    if (byBand)
      return bandRows(data.bands, columns, scale, depth, (at) => [
        data.bands[at]?.value_mean ?? 0,
        data.bands[at]?.cv ?? null,
      ])
    const met = (at: number) => isMet(data, at)
    const worth = (at: number) => [data.value_mean[at] ?? 0, data.cv[at] ?? null]
    return depthRows(data.depths, columns, scale, depth, met, worth)
  }

  const lines = (of: Sheet, every: Column[], beside: boolean) =>
    every
      .filter((column) => chosen.includes(column.id))
      .map((column) => ({
        id: beside ? `${column.id} beside` : column.id,
        name: beside ? '' : column.name,
        colour: column.colour,
        values: inMet(of, column.numbers),
        dash: beside ? '4 3' : undefined,
      }))
  const nameOfOther = other.view ? (parts[other.view.kind].get(other.view.id)?.name ?? '') : ''
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1.5">
        <div className="flex items-baseline gap-3">
          <h1 className="name truncate text-sheet leading-8">{part.name}</h1>
          <span className="ml-auto">
            <AlongSwitch />
          </span>
        </div>
        <div className="flex flex-wrap items-baseline gap-x-3 text-small text-muted">
          <span>
            tiers of what{' '}
            <Choice
              label="tier shares of what"
              value={shares}
              options={{ falls: 'falls', worth: 'it is worth' }}
              onChange={(next) => useGame.setState({ shares: next as 'falls' | 'worth' })}
            />
          </span>
          <TellingChoices
            of="items"
            telling={telling}
            without={'seconds' in part ? [] : ['hour']}
            beside={other.on}
            onCopy={() => copyRows(rows, columns, more)}
          >
            <span>{other.choice}</span>
          </TellingChoices>
        </div>
      </header>
      <DepthFrame>
        {!data && <Pending of={depths} what="every depth" />}
        {data && (
          <div className="flex" style={{ width: 'max-content' }}>
            <div className="relative ml-3">
              {other.view && <Caption name={part.name} />}
              <TierShares name={part.name} sheet={data} of={shares} scale={scale} width={92} />
            </div>
            {other.data && other.view && (
              <div className="relative ml-2">
                <Caption name={nameOfOther} />
                <TierShares
                  name={nameOfOther}
                  sheet={other.data}
                  of={shares}
                  scale={scale}
                  width={92}
                />
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
                here={{
                  ...{ name: `${part.name} at ${depth}`, sheet: data, depth },
                  perHour: data.per_hour ?? 1,
                }}
                there={other.side}
                figure={figure}
                height={scale.height}
                chosen={chosen}
                onChoose={toggle}
              />
            ) : (
              <DepthRows
                label="figures by depth"
                rows={rows}
                columns={columns}
                figure={figure}
                mark={(id) => (
                  <TierMark tier={parts.tier.get(parts.item.get(id)?.tier ?? '')} size={10} />
                )}
                chosen={chosen}
                onChoose={toggle}
                more={more}
                onHold={(what, at, value) => {
                  const wish = wishOfColumn(what, figure, value)
                  if (view && wish) void holdAsItStands(view, wish, at)
                }}
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
    <span className="name absolute -top-[32px] w-full truncate text-fine leading-4">{name}</span>
  )
}

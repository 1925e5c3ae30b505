// What is on sale when: a row a period, a column a good, by the clock of any place.
import { useState } from 'react'
import type { Stall, StallOut } from '@/api/types'
import type { Parts } from '@/game/parts'
import { Figure } from '@/plots/Figure'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { colourOf, goodName } from './goods'
import { useZone } from './useZone'
import { clockOf, momentOf, zonesShown } from './zones'

/** Periods that are shown at a time. */
export const SHOWN = 42

interface CalendarProps {
  stall: Stall
  parts: Parts
  data: StallOut | undefined
  today: string
  moment: string | null
  onMoment: (moment: string | null) => void
}

const ROW = 13
const COLUMN = 17
const TAKE = 18 // pixels, for what takes its numbers along

export function Calendar({ stall, parts, data, today, moment, onMoment }: CalendarProps) {
  const [over, setOver] = useState<number | null>(null)
  const [zone, setZone] = useZone()
  const goods = Object.keys(data?.shares ?? {})
  const periods = data?.periods ?? []
  const onSale = (lines: string[]) =>
    lines.map((good) => goodName(parts, stall, good)).join(', ') || 'nothing yet'
  const step = (by: number) => {
    const first = periods[0]
    if (!first) return
    onMoment(isoOf(Date.parse(first.from) + by * stall.period_seconds * 1000))
  }
  const isNow = (one: { from: string; to: string }) =>
    Date.parse(one.from) <= Date.parse(today) && Date.parse(today) < Date.parse(one.to)
  return (
    <section aria-label="calendar">
      <p className="flex items-baseline gap-2 text-note">
        <span className="head">On sale</span>
        <button type="button" className="plain-button" onClick={() => step(-SHOWN + 2)}>
          earlier
        </button>
        <button type="button" className="plain-button" onClick={() => step(SHOWN - 2)}>
          later
        </button>
        {moment !== null && (
          <button type="button" className="label hover:text-ink" onClick={() => onMoment(null)}>
            today
          </button>
        )}
        <EditText
          label="from when on"
          text={clockOf(Date.parse(moment ?? today), zone).day}
          className="choice num ml-2"
          inputClass="num w-28"
          onCommit={(text) => {
            const at = momentOf(text, zone)
            if (at === null) return { message: 'a day is written 2031-04-01' }
            onMoment(isoOf(at))
            return null
          }}
        />
        <Choice
          label="by the clock of"
          value={zone}
          width="w-[120px]"
          options={Object.fromEntries(zonesShown().map((one) => [one, one.replaceAll('_', ' ')]))}
          onChange={setZone}
        />
      </p>
      <div className="mt-1">
        <Figure
          name={`on sale at ${stall.name}`}
          says={`What is on sale in ${periods.length} periods`}
          width={96 + goods.length * COLUMN + TAKE}
          height={periods.length * ROW + 22}
          isFluid={false}
          along="y"
          across={[0, 96 + goods.length * COLUMN]}
          readings={periods.map((one, row) => ({
            at: row * ROW + 19 + ROW / 2,
            says: `${momentText(one.from, zone)}\n${onSale(one.goods)}`,
          }))}
          numbers={() => ({
            heads: ['from', 'period', ...goods.map((good) => goodName(parts, stall, good))],
            rows: periods.map((one) => [
              one.from,
              one.k,
              ...goods.map((good) => (one.goods.includes(good) ? 1 : 0)),
            ]),
          })}
          onRead={setOver}
        >
          {goods.map((good, at) => (
            <text
              key={good}
              x={92 + at * COLUMN + (COLUMN - 3) / 2}
              y="12"
              textAnchor="middle"
              className="num"
              fontSize="9.5"
              fill="var(--color-muted)"
            >
              {at + 1}
            </text>
          ))}
          {periods.map((one, row) => (
            <g key={one.k} transform={`translate(0,${row * ROW + 19})`}>
              {(isNow(one) || row === over) && (
                <rect
                  x="0"
                  width={96 + goods.length * COLUMN}
                  height={ROW}
                  fill={isNow(one) ? 'var(--color-gold)' : 'var(--color-gold-wash)'}
                  opacity={isNow(one) ? 0.35 : 1}
                />
              )}
              <text x="2" y={ROW - 3} className="num" fontSize="9.5" fill="var(--color-muted)">
                {dateText(one.from, zone, stall.period_seconds)}
              </text>
              {goods.map((good, at) =>
                one.goods.includes(good) ? (
                  <rect
                    key={good}
                    x={92 + at * COLUMN}
                    y="1"
                    width={COLUMN - 3}
                    height={ROW - 2}
                    rx="2"
                    fill={colourOf(parts, stall, good)}
                  />
                ) : null,
              )}
            </g>
          ))}
        </Figure>
      </div>
    </section>
  )
}

const isoOf = (moment: number) => new Date(moment).toISOString().slice(0, 19) + 'Z'

/** A day where every period is of whole days, else with its hour. */
function dateText(iso: string, zone: string, period: number): string {
  const { day, time } = clockOf(Date.parse(iso), zone)
  return period % 86_400 === 0 && time === '00:00' ? day : `${day.slice(5)} ${time}`
}

function momentText(iso: string, zone: string): string {
  const { day, time } = clockOf(Date.parse(iso), zone)
  return `${day} ${time} ${zone.replaceAll('_', ' ')}`
}

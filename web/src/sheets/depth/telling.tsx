// How a table over depth is told: which figure, in which order, by depth or band, which lines are drawn.
import { useState, type ReactNode } from 'react'
import { useGame } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { ordersOf, type Order } from './columns'
import { figuresWithout, type Figure } from './figures'

export interface Telling {
  figure: Figure
  order: Order
  byBand: boolean
  log: boolean
  chosen: string[]
  set: (changed: Partial<Omit<Telling, 'set' | 'toggle'>>) => void
  /** Draw a column as a line, or no more. */
  toggle: (id: string) => void
}

export function useTelling(first: Figure): Telling {
  const [told, setTold] = useState<Omit<Telling, 'set' | 'toggle'>>({
    ...{ figure: first, order: 'here', byBand: false, log: false },
    chosen: [],
  })
  const set: Telling['set'] = (changed) => setTold((before) => ({ ...before, ...changed }))
  const toggle = (id: string) =>
    set({
      chosen: told.chosen.includes(id)
        ? told.chosen.filter((one) => one !== id)
        : [...told.chosen, id],
    })
  return { ...told, set, toggle }
}

/** The choices as words in a line; `before` what is copied come choices of one sheet alone. */
export function TellingChoices({
  of,
  telling,
  without = [],
  beside = false,
  onCopy,
  children,
}: {
  of: 'items' | 'sources'
  telling: Telling
  /** Figures that cannot be told here. */
  without?: Figure[]
  /** Two things side by side stand in an order of their own. */
  beside?: boolean
  onCopy: () => void
  children?: ReactNode
}) {
  const word = useGame((state) => state.parts.settings.words?.depth ?? 'depth')
  const { figure, order, byBand, log, set } = telling
  return (
    <>
      <span>
        {of}:{' '}
        <Choice
          label="figure"
          value={figure}
          options={figuresWithout(without)}
          onChange={(next) => set({ figure: next as Figure })}
        />
      </span>
      {!beside && (
        <>
          <Choice
            label={`order of the ${of}`}
            value={order}
            options={ordersOf(of)}
            onChange={(next) => set({ order: next as Order })}
          />
          <Word onClick={() => set({ byBand: !byBand })}>{byBand ? 'by band' : `by ${word}`}</Word>
        </>
      )}
      <Word onClick={() => set({ log: !log })}>{log ? 'log lines' : 'linear lines'}</Word>
      {children}
      {!beside && <Word onClick={onCopy}>copy the table</Word>}
    </>
  )
}

function Word({ children, onClick }: { children: ReactNode; onClick: () => void }) {
  return (
    <button type="button" className="choice text-ink" onClick={onClick}>
      {children}
    </button>
  )
}

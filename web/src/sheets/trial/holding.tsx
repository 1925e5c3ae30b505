// Figures of a report that can be held: pressed, they become targets of what was tried, where it was tried.
import type { ReactNode } from 'react'
import type { TrialOut, TrialSpec } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { Hold } from '@/sheets/target/Hold'
import type { Wish } from '@/sheets/target/edits'
import { aboutTrial } from './about'

/** What there is a target of: after so many events of a source or table, or after a whole route. */
export interface Wishes {
  after?: (events: number) => Wish
  onRoute?: Wish
}

export function HoldTried({
  trial,
  wishes,
  isPlain = true,
  children,
}: {
  trial: TrialOut
  wishes: Wishes
  isPlain?: boolean
  children: ReactNode
}) {
  const parts = useGame((state) => state.parts)
  const of = triedOf(parts, trial.spec)
  return (
    <Hold
      wish={of && wishOf(trial.spec, wishes)}
      {...(of && { of })}
      {...(trial.spec.depth != null && { at: trial.spec.depth })}
      isPlain={isPlain}
    >
      {children}
    </Hold>
  )
}

function triedOf(parts: Parts, spec: TrialSpec) {
  const { sheet } = aboutTrial(parts, spec)
  if (!sheet) return null
  const { kind, id } = sheet
  return kind === 'source' || kind === 'table' || kind === 'route' ? { kind, id } : null
}

function wishOf(spec: TrialSpec, { after, onRoute }: Wishes): Wish | null {
  if (spec.route) return onRoute ?? null
  if (!after || !spec.events || spec.depth == null) return null
  return { flags: spec.flags, ...after(spec.events) }
}

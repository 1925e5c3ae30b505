// A figure that can be held where it stands: pressed, it becomes a target.
import type { ReactNode } from 'react'
import type { LookedAt } from '@/game/targets'
import { useGame, viewInSight } from '@/game/store'
import { holdAsItStands, type Wish } from './edits'

/** Of what is in view, unless it is named. */
export function Hold({
  wish,
  route,
  source,
  of: named,
  at,
  className = '',
  isPlain = false,
  after = '',
  children,
}: {
  /** Null where there is nothing to hold. */
  wish: Wish | null
  route?: string
  source?: string
  of?: { kind: LookedAt; id: string }
  /** The depth, where it is not the one in view. */
  at?: number
  className?: string
  /** In the weight of what stands around it. */
  isPlain?: boolean
  /** What no line may end before: a comma. */
  after?: string
  children: ReactNode
}) {
  const view = useGame(viewInSight)
  const weight = isPlain ? 'font-normal' : 'font-bold'
  const of =
    named ??
    (route !== undefined
      ? ({ kind: 'route', id: route } as const)
      : source !== undefined
        ? ({ kind: 'source', id: source } as const)
        : view)
  if (!wish || !of)
    return (
      <>
        <span className={`num ${weight} ${className}`}>{children}</span>
        {after}
      </>
    )
  return (
    <span className={`whitespace-nowrap ${className}`}>
      <button
        type="button"
        className={`num held ${weight}`}
        title="Hold this: make a target of it"
        onClick={() => void holdAsItStands(of, wish, at)}
      >
        {children}
      </button>
      {after}
    </span>
  )
}

// A handle by which a row is carried to another place.
import { useCarry } from '../useCarry'

export const ROW = 28

export function RowGrip({
  name,
  at,
  count,
  onOver,
  onMoved,
}: {
  name: string
  at: number
  /** How many rows there are. */
  count: number
  /** The place where it would go now; null when it is let go. */
  onOver: (to: number | null) => void
  onMoved: (to: number) => void
}) {
  const bind = useCarry({
    at,
    placeOf: ({ by }) => Math.max(0, Math.min(count - 1, at + Math.round(by / ROW))),
    onOver,
    onMoved,
  })
  return (
    <span
      {...bind()}
      role="img"
      aria-label={`carry ${name}`}
      title="carry the row up or down (or Alt and an arrow)"
      className="flex h-full cursor-grab touch-none items-center px-1 text-muted active:cursor-grabbing"
    >
      <svg width="8" height="12" aria-hidden>
        <path
          d="M1 4 L4 1 L7 4 M1 8 L4 11 L7 8"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.3"
        />
      </svg>
    </span>
  )
}

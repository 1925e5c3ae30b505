// How a target stands, by shape before colour: a tick where it is met, a cross where it is missed, a
// dash where nothing can be told.
import type { Standing } from '@/api/types'

const SHAPES = {
  met: { path: 'M3 8.5l3.5 3.5L13 4.5', ink: 'var(--color-good)', words: 'met' },
  missed: { path: 'M4 4l8 8M12 4l-8 8', ink: 'var(--color-bad)', words: 'missed' },
  untold: { path: 'M3 8h10', ink: 'var(--color-muted)', words: 'not told yet' },
}

export type Stand = keyof typeof SHAPES

export function standOf(standing: Standing | undefined): Stand {
  if (!standing || standing.untold || !standing.depths.length) return 'untold'
  return standing.is_met ? 'met' : 'missed'
}

export function TargetMark({ stand }: { stand: Stand }) {
  const { path, ink, words } = SHAPES[stand]
  return (
    <svg
      width="13"
      height="13"
      viewBox="0 0 16 16"
      className="shrink-0"
      role="img"
      aria-label={words}
    >
      <path d={path} fill="none" stroke={ink} strokeWidth="2.2" strokeLinecap="round" />
    </svg>
  )
}

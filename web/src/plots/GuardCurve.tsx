// How a guard raises a chance with every miss; the gold tick is where the tray's player stands.
import type { Line } from '@/api/types'
import { percent } from '@/text/format'

type Guard = NonNullable<Line['guard']>

/** The chance after so many misses: see the guard in the guide. */
export function guarded(guard: Guard, chance: number, misses: number, byChance: boolean): number {
  if (guard.sure_at && misses + 1 >= guard.sure_at) return 1
  const rise = guard.rise * Math.max(0, misses - guard.after)
  if (byChance) return Math.min(1, chance + rise)
  // A weight w of a total W has the share w (1 + r) / (W + w r).
  return (chance * (1 + rise)) / (1 + chance * rise)
}

const MOST = 200

export function GuardCurve({
  guard,
  chance,
  byChance,
  misses,
}: {
  guard: Guard
  chance: number
  byChance: boolean
  misses: number
}) {
  const end = lastOf(guard, chance, byChance)
  const points = Array.from({ length: 25 }, (_, at) => Math.round((at * end) / 24)).map(
    (m) => [m, guarded(guard, chance, m, byChance)] as const,
  )
  const x = (m: number) => (26 * Math.min(m, end)) / Math.max(end, 1)
  const y = (p: number) => 11 - 10 * p
  const steps = points.map(([m, p]) => `${x(m).toFixed(1)},${y(p).toFixed(1)}`).join(' ')
  const words = `${percent(chance)} % at first, ${percent(guarded(guard, chance, end, byChance))} % after ${end} misses`
  return (
    <svg width="27" height="12" className="shrink-0" aria-hidden>
      <title>{misses ? `${words}; ${misses} in a row now` : words}</title>
      <line x1="0" x2="27" y1="11.5" y2="11.5" stroke="var(--color-hair)" />
      <polyline points={steps} fill="none" stroke="var(--color-muted)" strokeWidth="1.2" />
      {misses > 0 && (
        <line
          x1={x(misses)}
          x2={x(misses)}
          y1="1"
          y2="12"
          stroke="var(--color-gold)"
          strokeWidth="2"
        />
      )}
    </svg>
  )
}

/** The misses at which the chance is certain, or as good as. */
function lastOf(guard: Guard, chance: number, byChance: boolean): number {
  for (let m = 0; m < MOST; m += 1) if (guarded(guard, chance, m, byChance) > 0.995) return m
  return MOST
}

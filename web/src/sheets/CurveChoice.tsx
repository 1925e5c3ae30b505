// Which curve scales something with depth, chosen in a sentence: a faint sign until there is one.
import { curvesFor } from '@/game/curves'
import { show, useGame, type Failure } from '@/game/store'
import { Menu } from '@/ui/Menu'

export function CurveChoice({
  of,
  value,
  onChange,
}: {
  /** What is scaled. */
  of: string
  value: string | null | undefined
  onChange: (curve: string | null) => Promise<Failure | null>
}) {
  const { parts } = useGame()
  const curve = parts.curve.get(value ?? '')
  const curves = curvesFor(parts, value)
  if (!curve && curves.length === 0) return null
  return (
    <Menu
      label={`curve of ${of}`}
      trigger={
        <button
          type="button"
          aria-label={`curve of ${of}: ${curve?.name ?? 'none'}`}
          title={curve ? `${of}, times ${curve.name}` : `scale ${of} with depth`}
          className={
            curve
              ? 'num rounded-sm border border-hair px-1 text-[11.5px]'
              : 'px-0.5 text-hair hover:text-muted'
          }
        >
          {curve ? (
            `× ${curve.name}`
          ) : (
            <svg width="9" height="9" aria-hidden className="inline">
              <path d="M1 8 C 5 8 4 1 8 1" fill="none" stroke="currentColor" strokeWidth="1.4" />
            </svg>
          )}
        </button>
      }
      entries={[
        ...(curve
          ? [
              { label: `Open ${curve.name}`, run: () => show({ kind: 'curve', id: curve.id }) },
              { label: 'No curve', run: () => void onChange(null) },
              null,
            ]
          : []),
        ...curves.map((one) => ({
          label: one.name,
          disabled: one.id === value,
          run: () => void onChange(one.id),
        })),
      ]}
    />
  )
}

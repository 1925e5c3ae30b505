// Which curve scales something with depth, chosen in a sentence: a faint sign until there is one.
import type { EntryIn } from '@/api/types'
import { chosenCurve, curvesFor, OWN } from '@/game/curves'
import type { Answer } from '@/game/edit'
import { show, useGamePart } from '@/game/store'
import { Menu } from '@/ui/Menu'

export function CurveChoice({
  of,
  owner,
  value,
  onChange,
}: {
  /** What is scaled. */
  of: string
  /** Whose it is: a curve of its own is named after it. */
  owner: string
  value: string | null | undefined
  /** `more` are edits that go with it: of a curve of its own. */
  onChange: (curve: string | null, more: EntryIn[]) => Answer
}) {
  const { parts } = useGamePart('parts')
  const curve = parts.curve.get(value ?? '')
  const choose = async (choice: string) => {
    const chosen = chosenCurve(parts, choice, owner)
    const isDone = await onChange(chosen.curve, chosen.entries).isDone()
    if (isDone && choice === OWN && chosen.curve) show({ kind: 'curve', id: chosen.curve })
  }
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
              ? 'num ml-1 rounded-sm border border-hair px-1 text-fine'
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
              { label: 'No curve', run: () => void choose('') },
              null,
            ]
          : []),
        ...(curve?.private ? [] : [{ label: 'A curve of its own', run: () => void choose(OWN) }]),
        ...curvesFor(parts, value).map((one) => ({
          label: one.name,
          disabled: one.id === value,
          run: () => void choose(one.id),
        })),
      ]}
    />
  )
}

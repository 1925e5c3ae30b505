// One kind of thing on the shelf, under a heading that folds.
import { useState, type ReactNode } from 'react'
import { useGame } from '@/game/store'
import { FoldButton } from '@/ui/Fold'

export function Section({
  name,
  kinds,
  count,
  children,
  onAdd,
  filtered,
  startsOpen = true,
}: {
  name: string
  kinds: string[] // of sheets that stand in it
  count: number
  children: ReactNode
  onAdd?: () => void
  filtered: boolean
  startsOpen?: boolean
}) {
  const [open, setOpen] = useState(startsOpen)
  const shown = open || filtered
  const kind = useGame((state) => state.sheet?.kind ?? '')
  // Folded, its heading stands for the sheet that is in view.
  const here = !shown && kinds.includes(kind)
  return (
    <section className="border-t border-hair">
      <div
        className={`flex items-center pr-2 ${here ? 'bg-raised shadow-[inset_3px_0_0_var(--color-gold)]' : ''}`}
      >
        <FoldButton
          open={shown}
          onOpen={() => setOpen(!open)}
          className="flex flex-1 items-center gap-2 px-3 py-1.5"
        >
          <span className="head">{name}</span>
          <span className="num ml-auto text-muted">{count}</span>
        </FoldButton>
        {onAdd && (
          <button
            type="button"
            aria-label={`new in ${name}`}
            className="px-1.5 text-lead leading-none text-muted hover:text-ink"
            onClick={onAdd}
          >
            +
          </button>
        )}
      </div>
      {shown && children}
    </section>
  )
}

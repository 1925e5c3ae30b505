// One kind of thing on the shelf, under a heading that folds.
import { useState, type ReactNode } from 'react'
import { FoldButton } from '@/ui/Fold'

export function Section({
  name,
  count,
  children,
  onAdd,
  filtered,
  startsOpen = true,
}: {
  name: string
  count: number
  children: ReactNode
  onAdd?: () => void
  filtered: boolean
  startsOpen?: boolean
}) {
  const [open, setOpen] = useState(startsOpen)
  const shown = open || filtered
  return (
    <section className="border-t border-hair">
      <div className="flex items-center pr-2">
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
            className="px-1.5 text-[15px] leading-none text-muted hover:text-ink"
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

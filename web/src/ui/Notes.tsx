// Words that a designer leaves beside a thing, saved when the keyboard leaves them.
import { useState } from 'react'
import type { Failure } from '@/game/store'
import { Complaint } from './EditText'
import { isComposing } from './keys'
import { useTyped } from './useTyped'

export function Notes({
  label,
  text,
  quiet = false,
  onCommit,
}: {
  label: string
  text: string
  /** Whether it is only offered while nothing is written. */
  quiet?: boolean
  onCommit: (text: string) => PromiseLike<Failure | null>
}) {
  const [typed, setTyped] = useState<string | null>(null)
  const { problem, forget, finish } = useTyped({
    where: label,
    isOpen: typed !== null,
    typed: typed === text ? null : typed,
    commit: onCommit,
    onClosed: () => setTyped(null),
  })
  if (quiet && !text && typed === null)
    return (
      <button
        type="button"
        aria-label={`${label}: + a note for whoever reads this next`}
        className="label hover:text-ink"
        onClick={() => setTyped('')}
      >
        + a note for whoever reads this next
      </button>
    )
  return (
    <div className="relative">
      <textarea
        aria-label={label}
        rows={4}
        autoFocus={quiet && typed !== null}
        placeholder="Why, for whoever reads this next"
        className="field w-full resize-none p-1.5 text-note"
        value={typed ?? text}
        onChange={(event) => {
          setTyped(event.target.value)
          forget()
        }}
        onBlur={finish}
        onKeyDown={(event) => {
          event.stopPropagation()
          // Nothing that was written is thrown away by one key; Ctrl Z takes it back.
          if (event.key === 'Escape' && !isComposing(event)) event.currentTarget.blur()
        }}
      />
      {problem && <Complaint text={problem} />}
    </div>
  )
}

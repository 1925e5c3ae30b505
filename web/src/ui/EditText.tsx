// A word in a sentence that is edited where it stands.
import { useId, useLayoutEffect, useRef, useState } from 'react'
import type { Failure } from '@/game/store'
import { isComposing } from './keys'
import { useTyped } from './useTyped'

interface Props {
  label: string
  text: string
  show?: React.ReactNode
  className?: string
  inputClass?: string
  /** What can be said, shown while it is open. */
  hint?: string
  /** It is open from the start: what was just made is named first. */
  opens?: boolean
  /** It is what the sheet is called. */
  isTitle?: boolean
  onDraft?: (text: string | null) => void
  onCommit: (text: string) => PromiseLike<Failure | null> | Failure | null
}

export function EditText(props: Props) {
  return props.isTitle ? (
    <h1 className="min-w-0">
      <Word {...props} />
    </h1>
  ) : (
    <Word {...props} />
  )
}

function Word(props: Props) {
  const { label, text, show, className, inputClass, hint, opens = false, onDraft, onCommit } = props
  const [typed, setTyped] = useState<string | null>(opens ? text : null)
  const id = useId()
  const input = useRef<HTMLInputElement>(null)
  const word = useRef<HTMLButtonElement>(null)
  const isByKey = useRef(false)
  const editing = typed !== null
  const { problem, forget, finish, leave, within } = useTyped({
    where: label,
    isOpen: editing,
    typed: typed === null || typed.trim() === text ? null : typed.trim(),
    commit: onCommit,
    onClosed: () => {
      setTyped(null)
      onDraft?.(null)
    },
  })
  useLayoutEffect(() => {
    if (editing) input.current?.select()
    // Whoever closed it by a key goes on from where it stands.
    else if (isByKey.current) word.current?.focus()
    isByKey.current = false
  }, [editing])

  if (!editing)
    return (
      <button
        ref={word}
        type="button"
        aria-label={`${label}: ${text}. Change`}
        aria-labelledby={show ? `${id}-for ${id}-says` : undefined}
        className={className ?? 'choice num'}
        onClick={() => setTyped(text)}
      >
        {show ? (
          <>
            <span id={`${id}-for`} hidden>
              {label}, {text}:
            </span>
            <span id={`${id}-says`}>{show}</span>
          </>
        ) : (
          text
        )}
      </button>
    )
  return (
    <span className="relative inline-block">
      <input
        ref={input}
        aria-label={label}
        aria-invalid={problem !== ''}
        value={typed}
        className={`field ${inputClass ?? 'num w-24'} ${problem ? 'border-bad' : ''}`}
        onChange={(event) => {
          const { value } = event.target
          setTyped(value)
          forget()
          within(() => onDraft?.(value))
        }}
        // What was refused stays to be mended, or given up by Escape; it is not asked again and again.
        onBlur={() => problem || finish()}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (isComposing(event)) return
          isByKey.current = event.key === 'Enter' || event.key === 'Escape'
          if (event.key === 'Enter') {
            event.preventDefault() // or the word that the focus goes to would be pressed by it
            finish()
          }
          if (event.key === 'Escape') leave()
        }}
      />
      {problem && <Complaint text={problem} />}
      {hint && !problem && (
        <span className="overlay absolute left-0 top-full z-30 mt-1 block w-max max-w-72 px-2 py-0.5 text-left font-sans text-small font-normal text-muted">
          {hint}
        </span>
      )}
    </span>
  )
}

/** What is wrong, beside where it was typed. */
export function Complaint({ text }: { text: string }) {
  return (
    <span
      role="alert"
      className="overlay absolute left-0 top-full z-30 mt-1 block w-max max-w-72 border-bad px-2 py-1 text-left font-sans text-small font-normal text-bad"
    >
      {text}
    </span>
  )
}

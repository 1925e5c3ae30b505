// A word in a sentence that is edited where it stands.
import { useEffect, useRef, useState } from 'react'
import type { Failure } from '@/game/store'

interface Props {
  label: string
  text: string
  show?: React.ReactNode
  className?: string
  inputClass?: string
  onDraft?: (text: string | null) => void
  onCommit: (text: string) => Promise<Failure | null> | Failure | null
}

export function EditText({ label, text, show, className, inputClass, onDraft, onCommit }: Props) {
  const [typed, setTyped] = useState<string | null>(null)
  const [problem, setProblem] = useState('')
  const input = useRef<HTMLInputElement>(null)
  const busy = useRef(false)
  const editing = typed !== null
  useEffect(() => {
    if (editing) input.current?.select()
  }, [editing])

  const leave = () => {
    setTyped(null)
    setProblem('')
    onDraft?.(null)
  }
  const finish = async () => {
    if (typed === null || busy.current) return
    if (typed.trim() === text) return leave()
    busy.current = true
    const failure = await onCommit(typed.trim())
    busy.current = false
    if (failure) setProblem(failure.message)
    else leave()
  }
  if (!editing)
    return (
      <button
        type="button"
        aria-label={`${label}: ${text}. Change`}
        className={className ?? 'choice num'}
        onClick={() => setTyped(text)}
      >
        {show ?? text}
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
          setTyped(event.target.value)
          setProblem('')
          onDraft?.(event.target.value)
        }}
        onBlur={() => void finish()}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Enter') void finish()
          if (event.key === 'Escape') leave()
        }}
      />
      {problem && <Complaint text={problem} />}
    </span>
  )
}

/** What is wrong, beside where it was typed. */
export function Complaint({ text }: { text: string }) {
  return (
    <span
      role="alert"
      className="overlay absolute left-0 top-full z-30 mt-1 block w-max max-w-72 border-bad px-2 py-1 text-left font-sans text-[12px] font-normal text-bad"
    >
      {text}
    </span>
  )
}

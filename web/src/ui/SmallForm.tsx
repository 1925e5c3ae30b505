// A form in a bubble: Enter saves, keys stay in it, what stands in the way is said above the buttons. What was typed
// is saved too where one presses beside it; only Escape gives it up.
import { useEffect, useRef, type ReactNode } from 'react'
import { opened, tellLost } from '@/game/typed'
import { useHeld } from './useHeld'

export function SmallForm({
  className,
  children,
  problem,
  saves = 'Save',
  onSave,
  more,
}: {
  className: string // its width
  children: ReactNode
  problem: string
  saves?: string
  onSave: () => void
  more?: ReactNode // buttons beside the one that saves
}) {
  const held = useHeld()
  const form = useRef<HTMLFormElement>(null)
  const now = useRef({ problem, isGivenUp: false })
  useEffect(() => {
    now.current.problem = problem
  })
  useEffect(() => {
    const [element, state] = [form.current, now.current]
    held.within(() => undefined)
    const close = opened(() => void (element && submitTyped(element)))
    return () => {
      close()
      const { problem: why, isGivenUp } = state
      if (!element || isGivenUp || !(isTyped(element) || why)) return
      tellLost(saves, textOf(element), why || 'what it is of is not there any more')
    }
  }, [held, saves])
  return (
    <form
      ref={form}
      className={`space-y-2 text-note ${className}`}
      onChange={(event) => {
        event.currentTarget.dataset.typed = ''
        now.current.isGivenUp = false
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') now.current.isGivenUp = true
        event.stopPropagation()
      }}
      onSubmit={(event) => {
        event.preventDefault()
        delete event.currentTarget.dataset.typed
        held.within(onSave)
      }}
    >
      {children}
      <Problem>{problem}</Problem>
      <div className="flex flex-wrap gap-1.5">
        <button type="submit" className="gold-button">
          {saves}
        </button>
        {more}
      </div>
    </form>
  )
}

const isTyped = (form: HTMLElement) => 'typed' in form.dataset

/** Saves what is typed into a form within, if anything is; whether there was. */
export function submitTyped(within: HTMLElement | null): boolean {
  const form = within?.matches('form') ? within : within?.querySelector<HTMLElement>('form')
  if (!(form instanceof HTMLFormElement) || !isTyped(form)) return false
  form.requestSubmit()
  return true
}

/** What is written in its fields, each behind its name. */
function textOf(form: HTMLFormElement): string {
  const fields = [...form.querySelectorAll<HTMLInputElement>('input, select, textarea')]
  return fields.map((field) => `${field.ariaLabel ?? ''} ${field.value}`.trim()).join('; ')
}

export function Problem({ children }: { children: string }) {
  return children ? (
    <p role="alert" className="text-bad">
      {children}
    </p>
  ) : null
}

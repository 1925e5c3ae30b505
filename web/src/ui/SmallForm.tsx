// A form in a bubble: Enter saves, keys stay in it, what stands in the way is said above the buttons.
import type { ReactNode } from 'react'

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
  return (
    <form
      className={`space-y-2 text-note ${className}`}
      onKeyDown={(event) => event.stopPropagation()}
      onSubmit={(event) => {
        event.preventDefault()
        onSave()
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

export function Problem({ children }: { children: string }) {
  return children ? (
    <p role="alert" className="text-bad">
      {children}
    </p>
  ) : null
}

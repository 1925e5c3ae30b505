// A heading that folds what is below it away.
import type { ReactNode } from 'react'

export function FoldButton({
  open,
  onOpen,
  className,
  label,
  children,
}: {
  open: boolean
  onOpen: (open: boolean) => void
  className: string
  label?: string
  children?: ReactNode
}) {
  return (
    <button
      type="button"
      aria-expanded={open}
      aria-label={label}
      className={className}
      onClick={() => onOpen(!open)}
    >
      <Chevron open={open} />
      {children}
    </button>
  )
}

export function Chevron({ open }: { open: boolean }) {
  return (
    <svg width="10" height="10" viewBox="0 0 10 10" aria-hidden className="shrink-0">
      <path
        d={open ? 'M1.5 3l3.5 4 3.5-4' : 'M3 1.5l4 3.5-4 3.5'}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.4"
      />
    </svg>
  )
}

// Two or more ways to look at the same thing, side by side; one of them is on.
import type { Term } from '@/game/glossary'
import { Explained } from './Explained'

interface Choice<T> {
  value: T
  words: string
  /** A word that explains itself. */
  term?: Term
}

export function Switch<T>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string
  value: T
  choices: Choice<T>[]
  onChange: (value: T) => void
}) {
  return (
    <span
      role="group"
      aria-label={label}
      className="inline-flex divide-x divide-hair rounded-sm border border-hair"
    >
      {choices.map((choice) => {
        const button = (
          <button
            key={choice.words}
            type="button"
            aria-pressed={choice.value === value}
            onClick={() => onChange(choice.value)}
            className={`px-1.5 text-fine ${choice.value === value ? 'bg-gold-wash font-semibold text-ink' : 'text-muted'}`}
          >
            {choice.words}
          </button>
        )
        return choice.term ? (
          <Explained key={choice.words} term={choice.term} by={button} />
        ) : (
          button
        )
      })}
    </span>
  )
}

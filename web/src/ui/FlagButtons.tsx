// Flags as buttons that stay pressed while they are set.
import { useGame } from '@/game/store'

export function FlagButtons({
  label,
  set,
  onChange,
}: {
  label: string
  set: string[]
  onChange: (set: string[]) => void
}) {
  const flags = useGame((state) => state.parts.flag)
  return (
    <span className="inline-flex flex-wrap items-baseline gap-1.5" role="group" aria-label={label}>
      {[...flags.values()].map((flag) => {
        const on = set.includes(flag.id)
        return (
          <button
            key={flag.id}
            type="button"
            aria-pressed={on}
            onClick={() => onChange(on ? set.filter((one) => one !== flag.id) : [...set, flag.id])}
            className={`rounded-sm border px-1.5 text-fine leading-4 ${on ? 'border-gold bg-gold-wash font-semibold text-ink' : 'border-hair text-muted'}`}
          >
            {flag.name}
          </button>
        )
      })}
    </span>
  )
}

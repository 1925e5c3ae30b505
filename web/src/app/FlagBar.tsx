// Flags of the run that are set for what is on screen.
import { useGame } from '@/game/store'

export function FlagBar() {
  const { parts, flags } = useGame()
  if (!parts.flag.size) return null
  const toggle = (id: string) =>
    useGame.setState({
      flags: flags.includes(id) ? flags.filter((one) => one !== id) : [...flags, id],
    })
  return (
    <span
      className="flex flex-wrap items-baseline gap-1.5"
      role="group"
      aria-label="flags that are set"
    >
      {[...parts.flag.values()].map((flag) => {
        const set = flags.includes(flag.id)
        return (
          <button
            key={flag.id}
            type="button"
            aria-pressed={set}
            onClick={() => toggle(flag.id)}
            className={`rounded-sm border px-1.5 text-[11.5px] ${set ? 'border-gold bg-gold-wash font-semibold text-ink' : 'border-hair text-muted'}`}
          >
            {flag.name}
          </button>
        )
      })}
    </span>
  )
}

// A source or table at the depth in view, or along all depths.
import { useGame } from '@/game/store'

export function AlongSwitch() {
  const { parts, along } = useGame()
  const word = parts.settings.words?.depth ?? 'depth'
  const choice = (all: boolean, words: string) => (
    <button
      type="button"
      aria-pressed={along === all}
      onClick={() => useGame.setState({ along: all })}
      className={`px-1.5 text-[11.5px] ${along === all ? 'bg-gold-wash font-semibold text-ink' : 'text-muted'}`}
    >
      {words}
    </button>
  )
  return (
    <span
      role="group"
      aria-label="which depths"
      className="inline-flex divide-x divide-hair rounded-sm border border-hair"
    >
      {choice(false, `this ${word}`)}
      {choice(true, `all ${word}s`)}
    </span>
  )
}

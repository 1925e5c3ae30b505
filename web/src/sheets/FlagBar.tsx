// Flags of the run that are set for what is on screen.
import { useGame, useGamePart } from '@/game/store'
import { FlagButtons } from '@/ui/FlagButtons'

export function FlagBar() {
  const { parts, flags } = useGamePart('parts', 'flags')
  if (!parts.flag.size) return null
  const set = (flags: string[]) => useGame.setState({ flags })
  return <FlagButtons label="flags that are set" set={flags} onChange={set} />
}

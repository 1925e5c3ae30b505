// A source or table at the depth in view, or along all depths.
import { useGame, useGamePart } from '@/game/store'
import { Switch } from '@/ui/Switch'

export function AlongSwitch() {
  const { parts, along } = useGamePart('parts', 'along')
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <Switch
      label="which depths"
      value={along}
      choices={[
        { value: false, words: `this ${word}` },
        { value: true, words: `all ${word}s` },
      ]}
      onChange={(next) => useGame.setState({ along: next })}
    />
  )
}

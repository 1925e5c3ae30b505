// A log as the game would write it, of players who are played here: to try what a fault looks like, or none.
import { useState } from 'react'
import { useGamePart } from '@/game/store'
import { Choice } from '@/ui/Choice'

export function MadeHere() {
  const { id, parts, depth } = useGamePart('id', 'parts', 'depth')
  const [chosen, setChosen] = useState('')
  const source = parts.source.get(chosen) ?? [...parts.source.values()][0]
  if (!source) return null
  const player = parts.settings.words?.player ?? 'player'
  return (
    <p className="pt-6 text-note text-muted">
      No log at hand?{' '}
      <a
        className="choice text-ink"
        href={`/api/games/${id}/made-log?source=${source.id}&depth=${depth}&players=50&events=40`}
        download
      >
        Make one
      </a>{' '}
      of 50 {player}s at{' '}
      <Choice
        label="whose log is made"
        value={source.id}
        options={Object.fromEntries([...parts.source.values()].map((one) => [one.id, one.name]))}
        onChange={setChosen}
      />{' '}
      at {parts.settings.words?.depth ?? 'depth'} <span className="num">{depth}</span>, 40 events
      each.
    </p>
  )
}

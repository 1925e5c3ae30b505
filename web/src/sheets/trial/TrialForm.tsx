import { useQueryClient } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { api } from '@/api/client'
import type { View } from '@/api/types'
import { show, useGame, useGamePart } from '@/game/store'
import { eventWords } from '@/game/words'
import { whole } from '@/ui/format'
import { typedNumber } from '@/ui/numbers'
import { Problem } from '@/ui/SmallForm'

let lastView: View | null = null
useGame.subscribe((state) => {
  const { sheet } = state
  if (sheet?.kind === 'source' || sheet?.kind === 'table')
    lastView = { kind: sheet.kind, id: sheet.id }
})

/** Set up a trial of what was last in view. */
export function TrialForm() {
  const { id, parts, depth, flags } = useGamePart('id', 'parts', 'depth', 'flags')
  const client = useQueryClient()
  const first = parts.source.keys().next().value
  const start =
    lastView && parts[lastView.kind].has(lastView.id)
      ? `${lastView.kind}/${lastView.id}`
      : `source/${first ?? ''}`
  const [about, setAbout] = useState(start)
  const [name, setName] = useState('')
  const [players, setPlayers] = useState('10000')
  const [events, setEvents] = useState('500')
  const [seed, setSeed] = useState(() => String(Math.floor(Math.random() * 100_000)))
  const [problem, setProblem] = useState('')
  const [kind, target] = about.split('/') as ['source' | 'table', string]
  const words = eventWords(kind === 'source' ? parts.source.get(target) : undefined)
  const player = parts.settings.words?.player ?? 'player'
  const total = (typedNumber(players) ?? 0) * (typedNumber(events) ?? 0)

  const submit = async (event: FormEvent) => {
    event.preventDefault()
    const [p, n, s] = [typedNumber(players), typedNumber(events), typedNumber(seed)]
    if (p === null || n === null || s === null)
      return setProblem('players, events and seed are whole numbers')
    try {
      const trial = await api.runTrial(id, {
        name,
        view: { kind, id: target },
        depth,
        flags,
        players: p,
        events: n,
        seed: s,
      })
      await client.invalidateQueries({ queryKey: ['trials', id] })
      show({ kind: 'trial', id: trial.id })
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
  }
  const field = 'field num h-8 text-center text-[14px]'
  return (
    <form className="max-w-[640px] space-y-4 px-5 pt-3" onSubmit={(event) => void submit(event)}>
      <h1 className="name text-[32px] leading-10">A new trial</h1>
      {/* A sentence: what stands in it flows as its words do. */}
      <p className="text-[15px] leading-[42px]">
        <input
          className={`${field} w-24`}
          aria-label={`how many ${player}s`}
          value={players}
          onChange={(event) => setPlayers(event.target.value)}
        />{' '}
        {player}s, each doing{' '}
        <input
          className={`${field} w-20`}
          aria-label="events each"
          value={events}
          onChange={(event) => setEvents(event.target.value)}
        />{' '}
        {words.many} of{' '}
        <select
          className="field name h-8 text-[15px]"
          aria-label="what is simulated"
          value={about}
          onChange={(event) => setAbout(event.target.value)}
        >
          {[...parts.source.values()].map((source) => (
            <option key={source.id} value={`source/${source.id}`}>
              {source.name}
            </option>
          ))}
          {[...parts.table.values()].map((table) => (
            <option key={table.id} value={`table/${table.id}`}>
              {table.name} (table)
            </option>
          ))}
        </select>{' '}
        at {parts.settings.words?.depth ?? 'depth'} <b className="num">{depth}</b>, with seed{' '}
        <input
          className={`${field} w-24`}
          aria-label="seed"
          value={seed}
          onChange={(event) => setSeed(event.target.value)}
        />
      </p>
      <p className="flex items-center gap-3">
        <input
          className="field h-8 w-64"
          aria-label="name of the trial"
          placeholder="Name, if you like"
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <button type="submit" className="gold-button">
          Run the trial
        </button>
        <span className="label num">{whole(total)} events</span>
      </p>
      <Problem>{problem}</Problem>
      <p className="label">The same seed gives the same players again, to the last digit.</p>
    </form>
  )
}

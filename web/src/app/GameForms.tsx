// What games are opened, made and brought in by: on the first page, and in dialogs.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { api } from '@/api/client'
import { useGames } from '@/game/queries'
import { fileInOrder } from '@/game/order'
import { useGame } from '@/game/store'
import { when } from '@/text/format'
import { importGame, openGame } from '@/game/games'

export function GameList({ onOpen }: { onOpen: () => void }) {
  const { data: games = [] } = useGames()
  const current = useGame((state) => state.id)
  const { data: strips } = useQuery({ queryKey: ['games', 'strips'], queryFn: api.strips })
  if (!games.length) return <p className="text-muted">There is no game yet.</p>
  return (
    <ul className="divide-y divide-hair">
      {games.map((game) => (
        <li key={game.id}>
          <button
            type="button"
            className="flex w-full items-baseline justify-between py-1.5 text-left hover:bg-gold-wash"
            onClick={() => void openGame(game.id).then(onOpen)}
          >
            <span className="min-w-0">
              <span className="name text-sub">{game.name}</span>
              <TierStrip tiers={strips?.[game.id] ?? []} />
            </span>
            <span className="label">
              {game.id === current ? 'open now, ' : ''}revision {game.revision},{' '}
              {when(game.updated_at)}
            </span>
          </button>
        </li>
      ))}
    </ul>
  )
}

/** How a game's items lie in its tiers. */
function TierStrip({ tiers }: { tiers: { name: string; colour: string; items: number }[] }) {
  const all = tiers.reduce((sum, tier) => sum + tier.items, 0)
  if (!all) return null
  return (
    <span
      className="mt-1 flex h-1.5 w-48 gap-px"
      title={tiers.map((t) => `${t.name} ${t.items}`).join(', ')}
    >
      {tiers
        .filter((tier) => tier.items)
        .map((tier) => (
          <span
            key={tier.name}
            style={{ background: tier.colour, width: `${(100 * tier.items) / all}%` }}
          />
        ))}
    </span>
  )
}

export function NameForm({
  label,
  verb,
  initial = '',
  onName,
  onDone,
}: {
  label: string
  verb: string
  initial?: string
  onName: (name: string) => Promise<void>
  onDone: () => void
}) {
  const [name, setName] = useState(initial)
  const [problem, setProblem] = useState('')
  const client = useQueryClient()
  const submit = async (event: FormEvent) => {
    event.preventDefault()
    try {
      await onName(name.trim())
      await client.invalidateQueries({ queryKey: ['games'] })
      onDone()
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
  }
  return (
    <form className="flex flex-wrap gap-2" onSubmit={(event) => void submit(event)}>
      <input
        className="field flex-1 py-1"
        aria-label={label}
        placeholder={label}
        value={name}
        autoFocus
        onChange={(event) => setName(event.target.value)}
      />
      <button type="submit" className="gold-button" disabled={!name.trim()}>
        {verb}
      </button>
      {problem && (
        <p role="alert" className="w-full text-bad">
          {problem}
        </p>
      )}
    </form>
  )
}

export function ImportForm({ onDone }: { onDone: () => void }) {
  const [problems, setProblems] = useState<string[]>([])
  const [mended, setMended] = useState<string | null>(null)
  const client = useQueryClient()
  const take = async (file: Blob | undefined) => {
    if (!file) return
    const found = await importGame(file)
    setProblems(found)
    setMended(found.length ? fileInOrder(await file.text()) : null)
    await client.invalidateQueries({ queryKey: ['games'] })
    if (!found.length) onDone()
  }
  return (
    <div
      className="space-y-3"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        void take(event.dataTransfer.files[0])
      }}
    >
      <p className="text-muted">
        A file that ends in .golddice.json, chosen or dropped here. It becomes a game of its own;
        nothing is overwritten.
      </p>
      <input
        type="file"
        accept=".json,application/json"
        aria-label="game file"
        onChange={(event) => void take(event.target.files?.[0])}
      />
      {problems.length > 0 && (
        <div role="alert">
          <p className="text-bad">
            The file was not taken: {problems.length}{' '}
            {problems.length === 1 ? 'thing is' : 'things are'} wrong with it.
          </p>
          <ul className="num mt-1 max-h-60 list-disc overflow-auto pl-5 text-small">
            {problems.map((problem) => (
              <li key={problem}>{problem}</li>
            ))}
          </ul>
          {mended !== null && (
            <button
              type="button"
              className="plain-button mt-2"
              onClick={() => void take(new Blob([mended]))}
            >
              Cut bands, put points in order, and take it
            </button>
          )}
        </div>
      )}
    </div>
  )
}

// Open, new, rename, import.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState, type FormEvent } from 'react'
import { api } from '@/api/client'
import { useFindings, useGames } from '@/api/queries'
import type { EntryIn } from '@/api/types'
import { commit } from '@/game/sync'
import type { Kind } from '@/game/parts'
import { when } from '@/ui/format'
import { mend } from '@/sheets/Findings'
import { fileInOrder } from '@/game/order'
import { show, useGame, type Sheet } from '@/game/store'
import { Sheetlet } from '@/ui/Menu'
import { importGame, makeGame, openGame } from './games'

export type DialogName = 'open' | 'new' | 'rename' | 'import' | 'findings'

export function GameDialogs({
  dialog,
  onClose,
}: {
  dialog: DialogName | null
  onClose: () => void
}) {
  const parts = useGame((state) => state.parts)
  const rename = async (name: string) => {
    const body = { ...parts.settings, name } as unknown as EntryIn['body']
    const failure = await commit(`renamed to ${name}`, [{ kind: 'settings', id: 'game', body }])
    if (failure) throw new Error(failure.message)
  }
  return (
    <>
      <Sheetlet open={dialog === 'open'} title="Open a game" onClose={onClose}>
        <GameList onOpen={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'new'} title="A new game" onClose={onClose}>
        <NameForm label="Name of the game" verb="Make it" onName={makeGame} onDone={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'rename'} title="Rename the game" onClose={onClose}>
        <NameForm
          label="Name of the game"
          verb="Rename"
          initial={parts?.settings.name}
          onName={rename}
          onDone={onClose}
        />
      </Sheetlet>
      <Sheetlet open={dialog === 'import'} title="Import a game file" onClose={onClose}>
        <ImportForm onDone={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'findings'} title="Findings" onClose={onClose} wide>
        <Findings onDone={onClose} />
      </Sheetlet>
    </>
  )
}

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
              Put bands and points in order, and take it
            </button>
          )}
        </div>
      )}
    </div>
  )
}

/** What is odd about the game; each leads to its place. */
function Findings({ onDone }: { onDone: () => void }) {
  const { data } = useFindings()
  const parts = useGame((state) => state.parts)
  if (!data?.findings.length) return <p className="text-muted">Nothing odd was found.</p>
  const go = (kind: string, id: string) => {
    // What is odd about the game's settings is about its bands.
    show(kind === 'settings' ? { kind: 'meets', id: 'here' } : ({ kind, id } as Sheet))
    onDone()
  }
  return (
    <ul className="divide-y divide-hair">
      {data.findings.map((one) => (
        <li
          key={one.path + one.message}
          className="grid grid-cols-[150px_1fr_auto] items-baseline gap-3 py-1"
        >
          <button
            type="button"
            className="name text-left underline decoration-hair underline-offset-2 hover:bg-gold-wash"
            onClick={() => go(one.kind, one.id)}
          >
            {parts[one.kind as Kind]?.get(one.id)?.name ?? one.id}
          </button>
          <span>{one.message}</span>
          {one.mend && (
            <button type="button" className="plain-button" onClick={() => mend(one)}>
              {one.mend.label}
            </button>
          )}
        </li>
      ))}
    </ul>
  )
}

// A copy knows where it came from: what was edited in it since can be brought over, thing by thing.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useGames } from '@/game/queries'
import type { EntryIn } from '@/api/types'
import { openGame } from '@/game/games'
import { partsOf, type Kind } from '@/game/parts'
import { useGamePart } from '@/game/store'
import { bodyOf } from '@/game/entries'
import { thisPage } from '@/game/sync/page'
import { whoAmI } from '@/game/who'
import { Differences } from '@/ui/Differences'
import { editedBetween } from './edited'

export function Copied() {
  const { id, parts } = useGamePart('id', 'parts')
  const { data: games = [] } = useGames()
  const mine = games.find((one) => one.id === id)
  const origin = games.find((one) => one.id === mine?.copied_from)
  const at = mine?.copied_at ?? null
  const { data: then } = useQuery({
    queryKey: ['revision', origin?.id, at],
    enabled: Boolean(origin) && at !== null,
    staleTime: Infinity,
    queryFn: async () =>
      partsOf(await api.openGame(origin?.id ?? '', await thisPage(), at ?? undefined)),
  })
  const client = useQueryClient()
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const [problem, setProblem] = useState('')
  if (!origin || at === null || !then) return null
  // A copy is called otherwise; that is no edit.
  const edited = editedBetween(then, parts).filter(
    (one) => one.entity !== 'settings/game' || one.where !== 'name',
  )
  const entities = [...new Set(edited.map((one) => one.entity))]
  const taken = entities.filter((one) => !left.has(one) && one !== 'settings/game')
  const bring = async () => {
    const entries = taken.map((one): EntryIn => {
      const [kind = '', name = ''] = one.split('/')
      return { kind, id: name, body: bodyOf(parts, kind as Kind, name) as EntryIn['body'] }
    })
    try {
      await api.change(origin.id, {
        base: at,
        label: `from ${parts.settings.name}`,
        page: await thisPage(),
        who: whoAmI(),
        entries,
      })
      setProblem('')
      await client.invalidateQueries({ queryKey: ['games'] })
      toast(`Brought over to ${origin.name}`, {
        action: { label: 'open it', onClick: () => void openGame(origin.id) },
      })
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
    }
  }
  return (
    <section aria-label="a copy" className="max-w-[760px] border-b border-hair pb-3">
      <p>
        A copy of{' '}
        <button
          type="button"
          className="name hover:bg-gold-wash"
          onClick={() => void openGame(origin.id)}
        >
          {origin.name}
        </button>
        , made at its revision <span className="num">{at}</span>;{' '}
        {edited.length ? 'this was edited here since:' : 'nothing was edited here since.'}
      </p>
      {edited.length > 0 && (
        <>
          <Differences
            label="edited in the copy"
            rows={edited}
            sides={['there', 'here']}
            choice={{
              isOn: (row) => taken.includes(row.entity ?? ''),
              toggle: (row) => {
                const next = new Set(left)
                if (row.entity && !next.delete(row.entity)) next.add(row.entity)
                setLeft(next)
              },
            }}
          />
          <p className="pt-2">
            <button
              type="button"
              className="gold-button"
              disabled={!taken.length}
              onClick={() => void bring()}
            >
              Bring {taken.length === entities.length ? 'all' : taken.length} over
            </button>
          </p>
        </>
      )}
      {problem && (
        <p role="alert" className="pt-1 text-bad">
          {problem}
        </p>
      )}
    </section>
  )
}

// What became of the game, revision by revision: who, when, what. Any of them can be looked at, marked, gone
// back to, or set beside another.
import { useInfiniteQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { api } from '@/api/client'
import type { HistoryEntry } from '@/api/types'
import { useGame, useGamePart } from '@/game/store'
import { backToToday, goBack, lookBack } from '@/game/sync/past'
import { EditText } from '@/ui/EditText'
import { Beside } from './Beside'
import { Copied } from './Copied'
import { byDay, type Run } from './runs'

const AT_A_TIME = 200

export function HistorySheet() {
  const { id, past } = useGamePart('id', 'past')
  const today = useGame((state) => (state.past === null ? state.revision : null))
  const [pair, setPair] = useState<number[]>([])
  const { data, hasNextPage, fetchNextPage, isFetching } = useInfiniteQuery({
    queryKey: ['history', id, today],
    queryFn: ({ pageParam }) => api.history(id, pageParam, AT_A_TIME),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last: HistoryEntry[]) =>
      last.length === AT_A_TIME ? last.at(-1)?.revision : undefined,
  })
  const changes = data?.pages.flat() ?? []
  const choose = (revision: number) =>
    setPair((now) =>
      now.includes(revision) ? now.filter((one) => one !== revision) : [...now.slice(-1), revision],
    )
  const [first, last] = [...pair].sort((a, b) => a - b)
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">History</h1>
      <p className="max-w-[680px] text-note text-muted">
        Look at the game as it was: all sheets show that revision, to be read. Let it go on from
        there: a new revision, and nothing in between is lost. Choose two, and see what was edited
        between them and what it did.
      </p>
      <Copied />
      <div className="grid grid-cols-[minmax(420px,560px)_1fr] gap-8 pt-2 max-[1100px]:grid-cols-1">
        <div>
          {byDay(changes).map(({ day, runs }) => (
            <section key={day} aria-label={day}>
              <h2 className="head border-b border-hair pb-0.5 pt-3">{day}</h2>
              <ul>
                {runs.map((run) => (
                  <RunRow
                    key={run.last.revision}
                    run={run}
                    past={past}
                    isChosen={pair.includes(run.last.revision)}
                    onChoose={() => choose(run.last.revision)}
                  />
                ))}
              </ul>
            </section>
          ))}
          {hasNextPage && (
            <button
              type="button"
              className="plain-button mt-2"
              disabled={isFetching}
              onClick={() => void fetchNextPage()}
            >
              Earlier
            </button>
          )}
        </div>
        {first !== undefined && last !== undefined ? (
          <Beside first={first} last={last} />
        ) : (
          <p className="pt-3 text-muted">
            {pair.length === 1
              ? 'And another, to set it beside.'
              : 'Tick two revisions to set them beside each other.'}
          </p>
        )}
      </div>
    </div>
  )
}

/** One edit, or several alike, one after the other. */
function RunRow({
  run,
  past,
  isChosen,
  onChoose,
}: {
  run: Run
  past: number | null
  isChosen: boolean
  onChoose: () => void
}) {
  const { id, parts } = useGamePart('id', 'parts')
  const client = useQueryClient()
  const { last, first, many } = run
  const again = () => client.invalidateQueries({ queryKey: ['history', id] })
  const doing = (work: Promise<unknown>) =>
    void work.catch((error: unknown) =>
      toast.error(error instanceof Error ? error.message : String(error)),
    )
  const isHere = past === last.revision
  const things = last.things.map(([kind, name]) => nameOf(parts, kind, name))
  const more = last.count > last.things.length ? ` and ${last.count - last.things.length} more` : ''
  return (
    <li
      className={`group grid grid-cols-[20px_56px_1fr_auto] items-baseline gap-x-2 border-b border-hair/60 py-1 text-note ${isHere ? 'bg-gold-wash' : ''}`}
    >
      <input
        type="checkbox"
        aria-label={`set revision ${last.revision} beside another`}
        checked={isChosen}
        onChange={onChoose}
      />
      <span className="num text-right text-muted">
        {many > 1 ? `${first.revision}–${last.revision}` : last.revision}
      </span>
      <span className="min-w-0">
        {ORIGINS[last.origin] ?? ''}
        {last.label}
        {many > 1 && <span className="text-muted"> and the like, {many} times</span>}
        {things.length > 0 && (
          <span className="block truncate text-muted">
            {things.join(', ')}
            {more}
            {last.who && <> · {last.who}</>}
          </span>
        )}
        {last.mark && <b className="block text-gold-ink">{last.mark}</b>}
      </span>
      <span className="flex gap-2 whitespace-nowrap">
        <button
          type="button"
          className="label hover:text-ink"
          onClick={() => doing(isHere ? backToToday() : lookBack(last.revision))}
        >
          {isHere ? 'today' : 'look'}
        </button>
        <EditText
          label={`mark of revision ${last.revision}`}
          text={last.mark ?? ''}
          show="mark"
          className="label hover:text-ink"
          inputClass="w-44"
          onCommit={async (text) => {
            await (text
              ? api.mark(id, last.revision, text.slice(0, 200))
              : api.unmark(id, last.revision))
            await again()
            return null
          }}
        />
        <button
          type="button"
          className="label hover:text-ink"
          aria-label={`go on from here, revision ${last.revision}`}
          onClick={() =>
            doing(
              goBack(last.revision).then(() => {
                toast(`It goes on from revision ${last.revision}; Ctrl Z takes that back`)
                return again()
              }),
            )
          }
        >
          go on from here
        </button>
        <span className="num w-10 text-right text-muted">{last.at.slice(11, 16)}</span>
      </span>
    </li>
  )
}

const ORIGINS: Record<string, string> = { undo: 'undone: ', redo: 'done again: ' }

function nameOf(parts: ReturnType<typeof useGame.getState>['parts'], kind: string, id: string) {
  if (kind === 'settings') return 'settings'
  return (parts[kind as 'item'].get(id) as { name?: string } | undefined)?.name ?? id
}

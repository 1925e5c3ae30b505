// Two revisions: what was edited from one to the other, and which figures and targets moved by it.
import { useQuery } from '@tanstack/react-query'
import { api } from '@/api/client'
import { partsOf, type Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { thisPage } from '@/game/sync/page'
import { lookBack } from '@/game/sync/past'
import { Differences } from '@/ui/Differences'
import { figures, percent } from '@/text/format'
import { DataTable } from '@/ui/table/DataTable'
import { editedBetween } from './edited'

export function Beside({ first, last }: { first: number; last: number }) {
  const id = useGame((state) => state.id)
  const then = useRevision(id, first)
  const now = useRevision(id, last)
  const { data, error } = useQuery({
    queryKey: ['compared', id, first, last],
    queryFn: () => api.compareRevisions(id, first, last),
    retry: false,
    staleTime: Infinity,
  })
  const edited = then && now ? editedBetween(then, now) : null
  const words = now?.settings.words?.depth ?? 'depth'
  return (
    <section aria-label="two revisions" className="min-w-0">
      <h2 className="head pb-1 pt-3">
        From <span className="num">{first}</span> to <span className="num">{last}</span>
        {then && (
          <button
            type="button"
            className="plain-button ml-3"
            onClick={() => void lookBack(last, { revision: first, parts: then })}
          >
            show both on the sheets
          </button>
        )}
      </h2>
      {error && <p className="text-bad">{error.message}</p>}
      {edited && (
        <>
          <p className="label pb-0.5">edited</p>
          {edited.length ? (
            <Differences
              label="what was edited"
              rows={edited}
              sides={[String(first), String(last)]}
            />
          ) : (
            <p className="text-muted">Nothing is other than it was.</p>
          )}
        </>
      )}
      {data && data.targets.length > 0 && (
        <>
          <p className="label pb-0.5 pt-4">targets that moved</p>
          <DataTable
            label="targets that moved"
            rows={data.targets}
            keyOf={(row) => row.id}
            onOpen={(row) => show({ kind: 'target', id: row.id })}
            columns={[
              { id: 'name', head: 'target', align: 'left', value: (row) => row.name },
              {
                id: 'before',
                head: String(first),
                value: (row) => row.before,
                cell: (row) => figures(row.before),
              },
              {
                id: 'after',
                head: String(last),
                value: (row) => row.after,
                cell: (row) => figures(row.after),
              },
              {
                id: 'met',
                head: 'holds',
                align: 'left',
                value: (row) => holds(row.was_met, row.met),
                cell: (row) => (
                  <span className={row.was_met && !row.met ? 'font-semibold text-bad' : ''}>
                    {holds(row.was_met, row.met)}
                  </span>
                ),
              },
            ]}
          />
        </>
      )}
      {data && (
        <>
          <p className="label pb-0.5 pt-4">
            figures that moved by over 5&#8239;%, the largest first
          </p>
          {data.moved.length === 0 && <p className="text-muted">None.</p>}
          {data.moved.length > 0 && now && (
            <DataTable
              label="figures that moved"
              rows={data.moved}
              keyOf={(row) => `${row.source}/${row.of}/${row.id}`}
              onOpen={(row) => show({ kind: 'source', id: row.source })}
              columns={[
                {
                  id: 'what',
                  head: 'what',
                  align: 'left',
                  value: (row) => movedName([now, then], row),
                },
                { id: 'depth', head: words, value: (row) => row.depth },
                {
                  id: 'before',
                  head: String(first),
                  value: (row) => row.before,
                  cell: (row) => written(row.of, row.before),
                },
                {
                  id: 'after',
                  head: String(last),
                  value: (row) => row.after,
                  cell: (row) => written(row.of, row.after),
                },
              ]}
            />
          )}
        </>
      )}
      {!data && !error && <p className="text-muted">working it out…</p>}
    </section>
  )
}

function useRevision(id: string, revision: number): Parts | undefined {
  const { data } = useQuery({
    queryKey: ['revision', id, revision],
    queryFn: async () => partsOf(await api.openGame(id, await thisPage(), revision)),
    staleTime: Infinity,
  })
  return data
}

const holds = (was: boolean, is: boolean) =>
  was === is ? (is ? 'still' : 'neither') : is ? 'now' : 'no longer'

const written = (of: string, figure: number) =>
  of === 'value' ? figures(figure) : `${percent(figure)}\u202f%`

/** As the later revision names it, else the earlier: what was removed is in one only. */
function movedName(
  revisions: (Parts | undefined)[],
  row: { source: string; of: string; id: string },
): string {
  const named = (kind: 'source' | 'item' | 'tier', id: string) =>
    revisions.map((parts) => parts?.[kind].get(id)?.name).find((name) => name !== undefined) ?? id
  const source = named('source', row.source)
  if (row.of === 'value') return `worth of ${source}`
  const what = named(row.of === 'item' ? 'item' : 'tier', row.id)
  return `${row.of === 'tier' ? 'any ' : ''}${what} from ${source}`
}

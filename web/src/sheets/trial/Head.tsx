// A trial's name and what was asked: players, events, where, with which seed, of which revision.
import { useQueryClient } from '@tanstack/react-query'
import { api } from '@/api/client'
import type { TrialOut } from '@/api/types'
import { show, useGamePart } from '@/game/store'
import { eventWords } from '@/game/words'
import { EditText } from '@/ui/EditText'
import { figures, whole } from '@/ui/format'

export function Head({ trial }: { trial: TrialOut }) {
  const { parts, id } = useGamePart('parts', 'id')
  const client = useQueryClient()
  const { view, players, events, depth, seed } = trial.spec
  const thing = view.kind === 'source' ? parts.source.get(view.id) : parts.table.get(view.id)
  const words = eventWords(view.kind === 'source' ? parts.source.get(view.id) : undefined)
  const renew = () => client.invalidateQueries({ queryKey: ['trials', id] })
  return (
    <header className="border-b border-hair pb-2">
      <EditText
        label="name of the trial"
        text={trial.name}
        className="name text-left text-[32px] leading-10"
        inputClass="name text-[28px] w-96"
        onCommit={async (name) => {
          await api.renameTrial(id, trial.id, name)
          await Promise.all([
            renew(),
            client.invalidateQueries({ queryKey: ['trial', id, trial.id] }),
          ])
          return null
        }}
      />
      <div className="flex flex-wrap items-baseline gap-x-4 text-[12.5px] text-muted">
        <span>
          <b className="num text-ink">{whole(players)}</b>{' '}
          {parts.settings.words?.player ?? 'player'}s
        </span>
        <span>
          <b className="num text-ink">{whole(events)}</b> {words.many} each of{' '}
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: view.kind, id: view.id })}
          >
            {thing?.name ?? view.id}
          </button>{' '}
          at {parts.settings.words?.depth ?? 'depth'} <b className="num text-ink">{depth}</b>
        </span>
        <span>
          seed <b className="num text-ink">{seed}</b>
        </span>
        <span>revision {trial.revision}</span>
        <span className="ml-auto flex gap-3">
          {trial.seconds !== null && (
            <span>
              simulated in <span className="num">{figures(trial.seconds, 2)}</span> s
            </span>
          )}
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => show({ kind: 'trial', id: 'new' })}
          >
            run another
          </button>
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() =>
              void api
                .deleteTrial(id, trial.id)
                .then(renew)
                .then(() => show({ kind: view.kind, id: view.id }))
            }
          >
            delete
          </button>
        </span>
      </div>
    </header>
  )
}

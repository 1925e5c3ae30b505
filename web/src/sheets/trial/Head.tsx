// A trial's name and what was asked: players, events, where, with which seed, of which revision.
import { useQueryClient } from '@tanstack/react-query'
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useTrials } from '@/game/queries'
import type { TrialOut } from '@/api/types'
import { show, useGamePart } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { figures, whole } from '@/text/format'
import { Title } from '@/sheets/Title'
import { aboutTrial, runAgain } from './about'

interface Described {
  name?: string
  note?: string
  pinned?: boolean
  beside?: string
}

const LINK = 'underline decoration-hair underline-offset-2 hover:text-ink'

export function Head({ trial }: { trial: TrialOut }) {
  const { parts, id, revision } = useGamePart('parts', 'id', 'revision')
  const client = useQueryClient()
  const { players, events, depth, seed, until, draft } = trial.spec
  const { name, sheet, words } = aboutTrial(parts, trial.spec)
  const listed = () => client.invalidateQueries({ queryKey: ['trials', id] })
  const renewed = () =>
    Promise.all([listed(), client.invalidateQueries({ queryKey: ['trial', id, trial.id] })])
  const describe = async (change: Described) => {
    await api.describeTrial(id, trial.id, change)
    await renewed()
    return null
  }
  const thing = sheet ? (
    <button type="button" className="choice text-ink" onClick={() => show(sheet)}>
      {name}
    </button>
  ) : (
    <span className="text-ink">{name}, which is gone</span>
  )
  return (
    <header className="border-b border-hair pb-2">
      <Title of="trial" id={trial.id} name={trial.name} onRename={(name) => describe({ name })} />
      <div className="flex flex-wrap items-baseline gap-x-4 text-note text-muted">
        <span>
          <b className="num text-ink">{whole(players)}</b>{' '}
          {parts.settings.words?.player ?? 'player'}s
          {until && `, until the mean is known to ±\u202f${figures(100 * until.within, 2)}\u202f%`}
        </span>
        {trial.spec.route ? (
          <span>each along {thing}</span>
        ) : (
          <span>
            <b className="num text-ink">{whole(events ?? 0)}</b> {words.many} each of {thing} at{' '}
            {parts.settings.words?.depth ?? 'depth'} <b className="num text-ink">{depth}</b>
          </span>
        )}
        <span>
          seed <b className="num text-ink">{seed}</b>
        </span>
        <span>
          revision {trial.revision}
          {draft.length > 0 && ' with a draft'}
          {trial.revision !== revision && `, the game is at ${revision}`}
        </span>
        {trial.seconds !== null && (
          <span>
            simulated in <span className="num">{figures(trial.seconds, 2)}</span> s
          </span>
        )}
      </div>
      <div className="flex flex-wrap items-baseline gap-x-4 pt-0.5 text-note text-muted">
        <button
          type="button"
          className={LINK}
          title="the same players, on the game as it is now, beside this one"
          onClick={() => void runAgain(client, trial).catch((e: Error) => toast.error(e.message))}
        >
          run again on today’s game
        </button>
        <button type="button" className={LINK} onClick={() => show({ kind: 'trial', id: 'new' })}>
          run another
        </button>
        <OtherChoice trial={trial} onChoose={(beside) => void describe({ beside })} />
        <button
          type="button"
          aria-pressed={trial.pinned}
          className={LINK}
          onClick={() => void describe({ pinned: !trial.pinned })}
        >
          {trial.pinned ? 'pinned; let it go' : 'pin'}
        </button>
        <span>
          note{' '}
          <EditText
            label="note of the trial"
            text={trial.note}
            show={trial.note || 'none'}
            className="choice text-ink"
            inputClass="w-72"
            onCommit={(note) => describe({ note })}
          />
        </span>
        <button type="button" className={LINK} onClick={() => void putAway(id, trial, listed)}>
          delete
        </button>
      </div>
    </header>
  )
}

async function putAway(game: string, trial: TrialOut, listed: () => Promise<unknown>) {
  await api.deleteTrial(game, trial.id)
  show({ kind: 'trial', id: 'new' })
  await listed()
  toast(`${trial.name} is put away`, {
    duration: 12_000,
    action: {
      label: 'Bring it back',
      onClick: () =>
        void api
          .restoreTrial(game, trial.id)
          .then(listed)
          .then(() => show({ kind: 'trial', id: trial.id })),
    },
  })
}

/** Another trial to set this one beside. */
function OtherChoice({ trial, onChoose }: { trial: TrialOut; onChoose: (other: string) => void }) {
  const { data: trials = [] } = useTrials()
  const done = trials.filter((one) => one.status === 'done' && one.id !== trial.id)
  if (trial.status !== 'done' || !done.length) return null
  const options = { '': 'nothing', ...Object.fromEntries(done.map((one) => [one.id, one.name])) }
  return (
    <span>
      beside{' '}
      <Choice
        label="beside another trial"
        value={trial.beside ?? ''}
        options={options}
        onChange={onChoose}
      />
    </span>
  )
}

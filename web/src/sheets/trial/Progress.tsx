// A trial that is under way, waits for its turn, or came to nothing.
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useTrials } from '@/game/queries'
import type { TrialOut } from '@/api/types'
import { useGame } from '@/game/store'
import { figures, whole } from '@/text/format'

export function Progress({ id, trial }: { id: string; trial: TrialOut }) {
  const game = useGame((state) => state.id)
  const { data: trials = [] } = useTrials()
  const now = trials.find((one) => one.id === id) ?? trial
  if (now.status !== 'running' && now.status !== 'waiting')
    return (
      <p className="py-6 text-muted">
        This trial was {now.status}
        {now.error ? `: ${now.error}` : ''}.
      </p>
    )
  const share = now.done / now.spec.players
  return (
    <div className="flex items-center gap-4 border-b border-hair py-3" role="status">
      <div className="flex-1">
        <p className="mb-1.5 text-note">
          {now.status === 'waiting'
            ? 'Waiting for its turn'
            : `${whole(now.done)} of ${whole(now.spec.players)} played`}
          {trial.pace && <Pace pace={trial.pace} />}
        </p>
        <div
          className="h-2 bg-sunk"
          role="progressbar"
          aria-valuenow={Math.round(100 * share)}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-label="progress of the trial"
        >
          <div className="h-full bg-gold" style={{ width: `${100 * share}%` }} />
        </div>
      </div>
      <button
        type="button"
        className="plain-button"
        onClick={() =>
          void api.cancelTrial(game, id).catch((error: Error) => toast.error(error.message))
        }
      >
        Stop
      </button>
    </div>
  )
}

function Pace({ pace }: { pace: NonNullable<TrialOut['pace']> }) {
  const { events_a_second: speed, seconds_left: left, precision } = pace
  return (
    <span className="num text-muted">
      {speed !== null && `, ${figures(speed / 1e6)} million events a second`}
      {left !== null && `, ${figures(Math.ceil(left), 2)} s left`}
      {precision !== null && `, mean known to ±\u202f${figures(100 * precision, 2)}\u202f%`}
    </span>
  )
}

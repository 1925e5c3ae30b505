// A trial that is under way, waits for its turn, or came to nothing.
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useTrials } from '@/api/queries'
import type { TrialOut } from '@/api/types'
import { useGame } from '@/game/store'
import { whole } from '@/ui/format'

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
    <div className="max-w-[520px] py-8" role="status">
      <p className="mb-2">
        {now.status === 'waiting'
          ? 'Waiting for its turn'
          : `${whole(now.done)} of ${whole(now.spec.players)} played`}
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
      <button
        type="button"
        className="plain-button mt-4"
        onClick={() =>
          void api.cancelTrial(game, id).catch((error: Error) => toast.error(error.message))
        }
      >
        Cancel
      </button>
    </div>
  )
}

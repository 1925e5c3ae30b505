// In the place of an answer that is not there: what is being worked out, since when, and how to stop it; that it
// was refused, and why; or that the server cannot be reached.
import { useEffect, useState } from 'react'
import type { AnswerTo } from '@/game/answer'
import { whole } from '@/text/format'

const NOTICED = 150 // ms
const LONG = 2_000

export function Pending({ of, what }: { of: AnswerTo<unknown>; what: string }) {
  const { state } = of
  const asked = state.is === 'asked' ? state.since : null
  const now = useNow(asked)
  if (state.is === 'refused') return <p className="py-2 text-bad">{state.message}</p>
  if (state.is === 'out of reach')
    return (
      <p className="py-2 text-waiting" role="status">
        The server cannot be reached, so {what} cannot be told. It is asked again by itself.
      </p>
    )
  if (state.is === 'stopped')
    return (
      <p className="py-2 text-muted" role="status">
        Stopped.{' '}
        <button
          type="button"
          className="underline decoration-gold decoration-2 underline-offset-2 hover:bg-gold-wash"
          onClick={of.again}
        >
          Work out {what}
        </button>
      </p>
    )
  if (asked === null || now - asked < NOTICED) return null
  return (
    <div className="py-2 text-muted" role="status" aria-busy="true">
      <p>
        Working out {what}
        {now - asked >= LONG && (
          <>
            , for <span className="num">{whole((now - asked) / 1000)}</span> seconds{' '}
            <button
              type="button"
              className="underline decoration-gold decoration-2 underline-offset-2 hover:bg-gold-wash"
              onClick={of.stop}
            >
              stop
            </button>
          </>
        )}
      </p>
      <div className="mt-1.5 h-2.5 w-3/5 animate-pulse rounded-sm bg-hair" />
      <div className="mt-1.5 h-2.5 w-2/5 animate-pulse rounded-sm bg-hair" />
    </div>
  )
}

/** The time, told anew while something is waited for. */
function useNow(since: number | null): number {
  const [now, setNow] = useState(() => Date.now())
  useEffect(() => {
    if (since === null) return
    const tick = () => setNow(Date.now())
    const first = setTimeout(tick, NOTICED)
    const more = setInterval(tick, 500)
    return () => {
      clearTimeout(first)
      clearInterval(more)
    }
  }, [since])
  return now
}

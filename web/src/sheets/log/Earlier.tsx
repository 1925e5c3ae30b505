// Logs that were held against this game before.
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { api } from '@/api/client'
import type { LogHeld } from '@/api/types'
import { useGame } from '@/game/store'
import { when } from '@/text/format'

export function Earlier({
  shown,
  onShow,
}: {
  shown: string | null
  onShow: (held: LogHeld | null) => void
}) {
  const game = useGame((state) => state.id)
  const client = useQueryClient()
  const { data: logs = [] } = useQuery({
    queryKey: ['logs', game],
    queryFn: () => api.logs(game),
  })
  const others = logs.filter((one) => one.id !== shown)
  if (!others.length) return null
  const forget = async (id: string) => {
    await api.forgetLog(game, id)
    await client.invalidateQueries({ queryKey: ['logs', game] })
  }
  return (
    <section aria-label="held before" className="pt-6">
      <h2 className="head">Held before</h2>
      <ul>
        {others.map((one) => (
          <li key={one.id} className="flex items-baseline gap-3 py-0.5 text-note">
            <button
              type="button"
              className="name hover:bg-gold-wash"
              onClick={() => void api.heldLog(game, one.id).then(onShow)}
            >
              {one.name}
            </button>
            <span className="text-muted">
              against revision <span className="num">{one.revision}</span>, {when(one.at)}
            </span>
            <button
              type="button"
              aria-label={`forget ${one.name}`}
              className="px-0.5 text-muted hover:text-bad"
              onClick={() => void forget(one.id)}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}

// The server's news: another tab's edits, and how far trials are.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import type { TrialSummary } from '@/api/types'
import { refresh } from '@/game/sync'
import { useGame } from '@/game/store'

type News =
  | { type: 'revision'; revision: number }
  | { type: 'trial'; id: string; status: string; done: number }

export function useNews(): void {
  const id = useGame((state) => state.id)
  const client = useQueryClient()
  useEffect(() => {
    if (!id) return
    const stream = new EventSource(`/api/games/${id}/events`)
    stream.onmessage = (message) => {
      const news = JSON.parse(String(message.data)) as News
      if (news.type === 'revision') {
        const { revision, pending } = useGame.getState()
        if (news.revision > revision && !pending.length) void refresh()
        return
      }
      client.setQueryData<TrialSummary[]>(['trials', id], (trials) =>
        trials?.map((trial) =>
          trial.id === news.id ? { ...trial, status: news.status, done: news.done } : trial,
        ),
      )
      if (news.status !== 'running') {
        void client.invalidateQueries({ queryKey: ['trials', id] })
        void client.invalidateQueries({ queryKey: ['trial', id, news.id] })
      }
    }
    return () => stream.close()
  }, [id, client])
}

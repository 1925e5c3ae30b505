// The server's news: another tab's edits, and how far trials and proposals are.
import { useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { api } from '@/api/client'
import type { TrialSummary } from '@/api/types'
import { hear } from '@/game/sync'
import { useGame } from '@/game/store'
import { hearRows } from '@/sheets/log/reading'
import { AGAIN, hearPeople, type Person } from '@/game/people'
import { thisPage } from '@/game/sync/page'
import { hearProgress } from '@/tuning/tuning'

type News =
  | { type: 'revision'; revision: number }
  | { type: 'trial'; id: string; status: string; done: number }
  | { type: 'pictures' }
  | { type: 'log'; token: string; rows: number }
  | { type: 'presence'; people: Person[] }
  | { type: 'tuning'; token: string; met: number; of: number }

export function useNews(): void {
  const id = useGame((state) => state.id)
  const client = useQueryClient()
  useEffect(() => {
    if (!id) return
    let stream: EventSource | null = null
    let left = false
    const onMessage = (message: MessageEvent) => {
      const news = JSON.parse(String(message.data)) as News
      if (news.type === 'revision') return hear(id, news.revision)
      if (news.type === 'presence') return hearPeople(news.people)
      if (news.type === 'log') return hearRows(news)
      if (news.type === 'pictures')
        return void client.invalidateQueries({ queryKey: ['pictures', id] })
      if (news.type === 'tuning') return hearProgress(news)
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
    const close = () => {
      stream?.close()
      stream = null
    }
    // A browser keeps few connections to one server. A page that nobody sees gives its own back
    // (also one kept for the way back), and catches up when it is seen again.
    const attend = () => {
      if (document.visibilityState !== 'visible') return close()
      if (stream) return
      void thisPage().then((page) => {
        if (left || stream || document.visibilityState !== 'visible') return
        stream = new EventSource(`/api/games/${id}/events?page=${page}`)
        stream.onmessage = onMessage
        // Also when it was lost and comes back: what was told meanwhile was not heard.
        stream.onopen = () => {
          window.dispatchEvent(new Event(AGAIN))
          void catchUp()
        }
      })
    }
    const catchUp = async () => {
      const [newest] = await api.history(id, undefined, 1).catch(() => [])
      if (newest) hear(id, newest.revision)
      void client.invalidateQueries({ queryKey: ['pictures', id] })
      void client.invalidateQueries({ queryKey: ['trials', id] })
    }
    attend()
    document.addEventListener('visibilitychange', attend)
    window.addEventListener('pagehide', close)
    window.addEventListener('pageshow', attend)
    return () => {
      left = true
      close()
      document.removeEventListener('visibilitychange', attend)
      window.removeEventListener('pagehide', close)
      window.removeEventListener('pageshow', attend)
    }
  }, [id, client])
}

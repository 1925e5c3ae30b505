// Removing things: at once where nobody needs them, else after a question.
import { useState } from 'react'
import { api } from '@/api/client'
import type { Kind } from '@/game/parts'
import { useGame } from '@/game/store'
import { commit } from '@/game/sync'
import type { Leaving } from './LeavingQuestion'

export function useRemoval() {
  const [leaving, setLeaving] = useState<Leaving | null>(null)
  const remove = async (kind: Kind, gone: { id: string; name: string }[]) => {
    const { id } = useGame.getState()
    for (const one of gone) {
      const uses = await api.uses(id, kind, one.id)
      if (uses.length) return setLeaving({ kind, ...one, uses })
    }
    const entries = gone.map((one) => ({ kind, id: one.id, body: null }))
    await commit(`removed ${gone.map((one) => one.name).join(', ')}`, entries)
  }
  return { leaving, remove, answered: () => setLeaving(null) }
}

// Removing things: at once where nobody needs them, else after a question.
import { useState } from 'react'
import { api } from '@/api/client'
import type { Kind } from '@/game/parts'
import { useGame } from '@/game/store'
import { edit } from '@/game/edit'
import type { Leaving } from './LeavingQuestion'

/** `onGone` is told of each thing that has gone. */
export function useRemoval(onGone: (kind: Kind, id: string) => void = () => undefined) {
  const [leaving, setLeaving] = useState<Leaving | null>(null)
  const remove = async (kind: Kind, gone: { id: string; name: string }[]) => {
    const { id } = useGame.getState()
    for (const one of gone) {
      const uses = await api.uses(id, kind, one.id)
      if (uses.length) return setLeaving({ kind, id: one.id, name: one.name, uses })
    }
    const label = `removed ${gone.map((one) => one.name).join(', ')}`
    const removing = edit(label, (game) => gone.forEach((one) => game[kind].delete(one.id)))
    if (await removing.isDone()) gone.forEach((one) => onGone(kind, one.id))
  }
  const answered = (done: boolean) => {
    setLeaving(null)
    if (done && leaving) onGone(leaving.kind, leaving.id)
  }
  return { leaving, remove, answered }
}

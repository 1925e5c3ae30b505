// Removing things: at once where nobody needs them, else after a question.
import { useState } from 'react'
import { toast } from 'sonner'
import { api, Offline } from '@/api/client'
import type { Kind } from '@/game/parts'
import { useGame } from '@/game/store'
import { edit } from '@/game/edit'
import { removedWords } from '@/game/sync'
import type { Leaving } from './LeavingQuestion'

const AWAY =
  'what needs it is not known while the server is out of reach; try again when it is there'

/** `onGone` is told of each thing that has gone. */
export function useRemoval(onGone: (kind: Kind, id: string) => void = () => undefined) {
  const [leaving, setLeaving] = useState<Leaving | null>(null)
  const remove = async (kind: Kind, gone: { id: string; name: string }[]) => {
    const { id } = useGame.getState()
    let uses
    try {
      uses = (await Promise.all(gone.map((one) => api.uses(id, kind, one.id)))).flat()
    } catch (error) {
      const why = error instanceof Offline ? AWAY : String(error)
      return void toast.error(`${gone.map((one) => one.name).join(', ')}: ${why}`)
    }
    const ids = new Set(gone.map((one) => one.id))
    // What goes along with it does not stand in its way.
    uses = uses.filter((use) => use.kind !== kind || !ids.has(use.id))
    if (uses.length) return setLeaving({ kind, gone, uses })
    const removing = edit(removedWords(kind, gone), (game) => {
      for (const one of ids) game[kind].delete(one)
    })
    if (await removing.isDone()) gone.forEach((one) => onGone(kind, one.id))
  }
  const answered = (done: boolean) => {
    setLeaving(null)
    if (done && leaving) leaving.gone.forEach((one) => onGone(leaving.kind, one.id))
  }
  return { leaving, remove, answered }
}

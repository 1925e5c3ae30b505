// The first five minutes, step by step: what was done once is ticked off, on this machine.
import { useState } from 'react'
import { useGame } from './store'

const KEY = 'golddice.first'

const known = (): number[] => {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '[]') as number[]
  } catch {
    return []
  }
}

export function tick(step: number): void {
  const done = known()
  if (!done.includes(step)) localStorage.setItem(KEY, JSON.stringify([...done, step]))
}

export const useTicks = () => useState(known)[0]

/** Steps that can be told from what is shown and edited; answers and rolls tell of themselves. */
export function watchTicks(): () => void {
  return useGame.subscribe((now, before) => {
    if (!now.id || now.id !== before.id) return
    if (now.sheet !== before.sheet && now.sheet?.kind === 'source') tick(0)
    if (now.sheet !== before.sheet && now.sheet?.kind === 'targets') tick(5)
    if (now.sheet !== before.sheet && now.sheet?.kind === 'trial') tick(6)
    if (now.depth !== before.depth && before.depth > 0) tick(4)
    if (now.pending !== before.pending)
      for (const { doing } of now.pending) {
        if (doing.what === 'undo') tick(7)
        if (doing.what === 'edit' && doing.edits.some((edit) => edit.kind === 'table')) tick(1)
      }
  })
}

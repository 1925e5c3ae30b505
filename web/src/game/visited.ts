// What was looked at last that players can do: a new trial is of that.
import type { View } from '@/api/types'
import { useGame } from './store'

export type Doable = View | { kind: 'route'; id: string }

let last: Doable | null = null

useGame.subscribe(({ sheet }) => {
  if (sheet?.kind === 'source' || sheet?.kind === 'table' || sheet?.kind === 'route')
    last = { kind: sheet.kind, id: sheet.id }
})

export const lastVisited = (): Doable | null => last

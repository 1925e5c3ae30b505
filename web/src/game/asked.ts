// The game that a question is about: a revision, with the edits that are not saved yet. So an answer is
// about what the page shows, whatever others do meanwhile.
import { useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import type { EntryIn } from '@/api/types'
import { useGame, type Pending } from './store'

export interface Asked {
  revision: number
  draft: EntryIn[]
}

export function useAsked(): Asked {
  const [revision, pending, draft] = useGame(
    useShallow((state) => [state.revision, state.pending, state.draft]),
  )
  return useMemo(() => ({ revision, draft: unsaved(pending, draft) }), [revision, pending, draft])
}

/** The game as it is edited, without what is only tried. */
export function askedNow(): Asked {
  const { revision, pending } = useGame.getState()
  return { revision, draft: unsaved(pending, []) }
}

/** Edits on their way count as drafts until they are saved. */
export function unsaved(pending: Pending[], draft: EntryIn[]): EntryIn[] {
  return [...pending.flatMap((change) => change.entries), ...draft]
}

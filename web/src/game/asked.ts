// The game that a question is about: a revision, with the edits that are not saved yet. So an answer is
// about what the page shows, whatever others do meanwhile.
import { useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import type { EntryIn } from '@/api/types'
import { useGame } from './store'

export interface Asked {
  revision: number
  draft: EntryIn[]
}

export function useAsked(): Asked {
  const [revision, waiting, draft] = useGame(
    useShallow((state) => [state.revision, state.unsaved, state.draft]),
  )
  return useMemo(() => ({ revision, draft: [...waiting, ...draft] }), [revision, waiting, draft])
}

/** The game as it is edited, without what is only tried. */
export function askedNow(): Asked {
  const { revision, unsaved } = useGame.getState()
  return { revision, draft: unsaved }
}

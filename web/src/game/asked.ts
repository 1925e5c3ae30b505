// The game that a question is about: a revision, with the edits that are not saved yet. So an answer is
// about what the page shows, whatever others do meanwhile.
import { useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import type { EntryIn } from '@/api/types'
import { contentAfter } from './content'
import { useGame } from './store'

export interface Asked {
  revision: number
  draft: EntryIn[]
}

/** What a question says, and what it is about as a word: of the same content it is the same question. */
export interface About {
  asked: Asked
  content: string
}

export function useAbout(): About {
  const [revision, unsaved, draft, content] = useGame(
    useShallow((state) => [state.revision, state.unsaved, state.draft, state.content]),
  )
  return useMemo(
    () => ({
      asked: { revision, draft: [...unsaved, ...draft] },
      content: contentAfter(content, draft),
    }),
    [revision, unsaved, draft, content],
  )
}

/** With another draft in place of the one that is shown. */
export function aboutDraft(draft: EntryIn[]): About {
  const { revision, unsaved, content } = useGame.getState()
  return {
    asked: { revision, draft: [...unsaved, ...draft] },
    content: contentAfter(content, draft),
  }
}

/** The game as it is edited, without what is only tried. */
export function askedNow(): Asked {
  const { revision, unsaved } = useGame.getState()
  return { revision, draft: unsaved }
}

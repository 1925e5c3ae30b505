// The game that a question is about: a revision, with the edits that are not saved yet. So an answer is
// about what the page shows, whatever others do meanwhile.
import { useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import type { Asked, EntryIn } from '@/api/types'
import { contentAfter } from './content'
import { useGame } from './store'

/** What a question says, and what it is about as a word: of the same content it is the same question. */
export interface About {
  asked: Asked
  content: string
  /** It is of edits under way: what has to be simulated is answered with fewer players, and sooner. */
  isQuick: boolean
}

export function useAbout(): About {
  const [revision, unsaved, draft, content] = useGame(
    useShallow((state) => [state.revision, state.unsaved, state.draft, state.content]),
  )
  return useMemo(
    () => aboutOf(revision, unsaved, draft, content),
    [revision, unsaved, draft, content],
  )
}

function aboutOf(revision: number, unsaved: EntryIn[], draft: EntryIn[], content: string): About {
  const all = [...unsaved, ...draft]
  const asked = { revision, draft: all }
  return { asked, content: contentAfter(content, draft), isQuick: all.length > 0 }
}

/** With another draft in place of the one that is shown. */
export function aboutDraft(draft: EntryIn[]): About {
  const { revision, unsaved, content } = useGame.getState()
  return aboutOf(revision, unsaved, draft, content)
}

/** The game as it is edited, without what is only tried. */
export function askedNow(): Asked {
  const { revision, unsaved } = useGame.getState()
  return { revision, draft: unsaved }
}

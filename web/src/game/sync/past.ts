// The game as it was: looked at, read only, until one comes back to today.
import { api } from '@/api/client'
import { contentOfRevision } from '../content'
import { partsOf, type Parts } from '../parts'
import { useGame } from '../store'
import { enter } from '.'
import { whoAmI } from '../who'
import { thisPage } from './page'

/** Show a revision. What is saved meanwhile, here or by others, is seen on coming back. */
export async function lookBack(
  revision: number,
  beside: { revision: number; parts: Parts } | null = null,
): Promise<void> {
  const { id } = useGame.getState()
  const game = await api.openGame(id, await thisPage(), revision)
  if (useGame.getState().id !== id) return
  useGame.setState({
    past: revision,
    beside,
    revision,
    parts: partsOf(game),
    content: contentOfRevision(revision),
    steps: { undo: null, redo: null },
    unsaved: [],
    draft: [],
  })
}

export async function backToToday(): Promise<void> {
  useGame.setState({ past: null, beside: null })
  await enter(useGame.getState().id)
}

/** The game goes on from a revision: a change like any other, that can be taken back. */
export async function goBack(revision: number): Promise<void> {
  await api.goBack(useGame.getState().id, {
    revision,
    page: await thisPage(),
    who: whoAmI(),
  })
  await backToToday()
}

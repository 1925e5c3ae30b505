// Opening, making, copying, putting away and moving games in and out.
import { toast } from 'sonner'
import { api, ApiError } from '@/api/client'
import { closed, show, useGame, type Sheet } from '@/game/store'
import { enter } from '@/game/sync'

export async function openGame(id: string, sheet?: Sheet | null): Promise<void> {
  const game = await enter(id)
  document.title = `${game.settings.name} – Gold Dice`
  const fallback: Sheet = { kind: 'overview', id: 'all' }
  useGame.setState({ sheet: null })
  show(sheet ?? fallback)
}

export async function makeGame(name: string): Promise<void> {
  const game = await api.makeGame(name)
  await openGame(game.id, { kind: 'items', id: 'catalogue' })
}

/** A new game to bring a spreadsheet into. */
export async function makeFromSheet(name: string): Promise<void> {
  const game = await api.makeGame(name)
  await openGame(game.id, { kind: 'exchange', id: 'all' })
}

export async function demoAgain(): Promise<void> {
  await openGame((await api.demoAgain()).id)
}

export async function duplicateGame(): Promise<void> {
  const copy = await api.duplicateGame(useGame.getState().id)
  await openGame(copy.id)
  toast(`Now in ${copy.name}`)
}

export async function deleteGame(): Promise<void> {
  const { id, parts } = useGame.getState()
  await api.deleteGame(id)
  closed()
  history.pushState(null, '', '/')
  toast(`${parts.settings.name} is put away`, {
    duration: 12_000,
    action: {
      label: 'Bring it back',
      onClick: () => void api.restoreGame(id).then(() => openGame(id)),
    },
  })
}

export function exportGame(): void {
  const link = document.createElement('a')
  link.href = `/api/games/${useGame.getState().id}/file`
  link.download = ''
  link.click()
}

/** What is wrong with a file, with its paths; empty where it was taken. */
export async function importGame(file: Blob): Promise<string[]> {
  try {
    const game = await api.importGame(file)
    await openGame(game.id)
    return []
  } catch (error) {
    if (!(error instanceof ApiError))
      return ['The server cannot be reached; the file was not read.']
    const places = error.problem.places ?? []
    if (!places.length) return [error.problem.detail]
    return places.map((place) => (place.path ? `${place.path}: ${place.message}` : place.message))
  }
}

// Edits of what holds for the whole game: its depths, its bands, its words.
import type { Band, EntryIn, Settings } from '@/api/types'
import { useGame } from './store'

export function settingsEntry(changed: Partial<Settings>): EntryIn {
  const body = { ...useGame.getState().parts.settings, ...changed }
  return { kind: 'settings', id: 'game', body: body as unknown as EntryIn['body'] }
}

export function bandsEntry(bands: Band[]): EntryIn {
  return settingsEntry({ depth: { ...useGame.getState().parts.settings.depth, bands } })
}

import { Suspense, useEffect, useState, type CSSProperties } from 'react'
import { Toaster } from 'sonner'
import { later, loadTheRest } from '@/ui/later'
import { closed, show, useGame } from '@/game/store'
import { watchTicks } from '@/game/ticks'
import { takeTyped, tellWhatWasLost } from '@/game/typed'
import { SHEET_KINDS, type SheetKind } from '@/game/kinds'
import { openGame } from '@/game/games'
import { Welcome } from './Welcome'

const Bench = later(async () => (await import('./Bench')).Bench)

// The notes' own colours, instead of those that they come with.
const NOTES = {
  '--normal-bg': 'var(--color-raised)',
  '--normal-border': 'var(--color-hair)',
  '--normal-text': 'var(--color-ink)',
  '--border-radius': '3px',
  fontFamily: 'inherit',
} as CSSProperties
const NOTE = {
  className: 'overlay',
  actionButtonStyle: { background: 'var(--color-gold)', color: 'var(--color-ink)' },
}

export function App() {
  const id = useGame((state) => state.id)
  const [routing, setRouting] = useState(true)
  useEffect(watchTicks, [])
  useEffect(loadTheRest, [])
  useEffect(tellWhatWasLost, [])
  useEffect(() => {
    const follow = () => void route().finally(() => setRouting(false))
    follow()
    window.addEventListener('popstate', follow)
    return () => window.removeEventListener('popstate', follow)
  }, [])
  return (
    <>
      {id ? (
        <Suspense>
          <Bench />
        </Suspense>
      ) : routing ? null : (
        <Welcome />
      )}
      <Toaster position="bottom-right" style={NOTES} toastOptions={NOTE} />
    </>
  )
}

/** The address says which game and which sheet. */
async function route(): Promise<void> {
  takeTyped()
  const [, first, game, kind, name] = location.pathname.split('/')
  if (first !== 'g' || !game) return closed()
  const sheet = kind && name && isSheet(kind) ? { kind, id: name } : null
  if (useGame.getState().id === game) return show(sheet, false)
  try {
    await openGame(game, sheet)
  } catch {
    closed()
    history.replaceState(null, '', '/')
  }
}

const isSheet = (kind: string): kind is SheetKind => SHEET_KINDS.includes(kind as SheetKind)

// Keys that work anywhere on the bench, unless a field has the keyboard.
import { useEffect } from 'react'
import { redo, undo } from '@/game/sync'
import { setDepth, useGame } from '@/game/store'

export function useKeyboard(actions: { find: () => void; roll: (count: number) => void }): void {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const ctrl = event.ctrlKey || event.metaKey
      if (ctrl && event.key.toLowerCase() === 'k') {
        event.preventDefault()
        return actions.find()
      }
      // A choice has nothing of its own that could be taken back.
      if (isField(event.target) && !(ctrl && event.target instanceof HTMLSelectElement)) return
      if (ctrl && event.key.toLowerCase() === 'z') {
        event.preventDefault()
        return void (event.shiftKey ? redo() : undo())
      }
      if (ctrl && event.key.toLowerCase() === 'y') {
        event.preventDefault()
        return void redo()
      }
      if (ctrl || event.altKey || isCell(event.target)) return
      const { depth } = useGame.getState()
      if (event.key === '[') setDepth(depth - 1)
      else if (event.key === ']') setDepth(depth + 1)
      else if (event.key === 'r') actions.roll(1)
      else if (event.key === 'R') actions.roll(100)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [actions])
}

/** A field has an undo of its own. */
const isField = (target: EventTarget | null) =>
  isWithin(target, 'input, textarea, select, [role=dialog]')

/** A cell of words takes letters: typing replaces what it holds. One of numbers does not. */
const isCell = (target: EventTarget | null) => isWithin(target, '[data-letters]')

const isWithin = (target: EventTarget | null, what: string) =>
  target instanceof HTMLElement && target.closest(what) !== null

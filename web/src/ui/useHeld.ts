// What is held by hand, in a component: an open field, a form, a drag. Others may edit meanwhile.
import { useMemo, useRef } from 'react'
import { edit, Gesture, sketch, type Recipe } from '@/game/edit'

export interface Held {
  /** It begins now, or has begun. */
  within: <T>(act: () => T) => T
  letGo: () => void
}

export function useHeld(): Held {
  const gesture = useRef<Gesture | null>(null)
  return useMemo(
    () => ({
      within: (act) => (gesture.current ??= new Gesture()).within(act),
      letGo: () => {
        gesture.current = null
      },
    }),
    [],
  )
}

/** A drag: shown as it goes, an edit once it is let go. */
export function useDragged() {
  const held = useHeld()
  return (at: { last: boolean; canceled?: boolean }, label: string, recipe: Recipe) => {
    held.within(() => {
      if (!at.last) return sketch(recipe)
      if (!at.canceled) void edit(label, recipe)
      sketch(null)
    })
    if (at.last) held.letGo()
  }
}

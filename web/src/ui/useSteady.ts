// Functions that stay the same for whoever is given them, and do what the latest do.
import { useLayoutEffect, useRef, useState } from 'react'

/** The same object for as long as its holder is there, doing what the latest one does. */
export function useSteady<T extends object>(latest: T): T {
  const held = useRef(latest)
  useLayoutEffect(() => {
    held.current = latest
  })
  const [steady] = useState(() => {
    const made = {} as Record<string, unknown>
    for (const key of Object.keys(latest))
      made[key] = (...given: unknown[]) =>
        (held.current as Record<string, (...args: unknown[]) => unknown>)[key]?.(...given)
    return made as T
  })
  return steady
}

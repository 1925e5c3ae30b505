// Whose clock dates are read by.
import { useState } from 'react'
import { isZone } from './zones'

const KEY = 'golddice.zone'

/** The zone that the reader chose, remembered on this machine. */
export function useZone(): [string, (zone: string) => void] {
  const [zone, setZone] = useState(() => {
    const known = localStorage.getItem(KEY)
    return known && isZone(known) ? known : 'UTC'
  })
  return [
    zone,
    (chosen) => {
      localStorage.setItem(KEY, chosen)
      setZone(chosen)
    },
  ]
}

// Whether something has been under way for longer than one does not notice.
import { useEffect, useState } from 'react'

const NOTICED = 500 // ms

export function useLate(isUnderWay: boolean): boolean {
  const [isLate, setLate] = useState(false)
  useEffect(() => {
    if (!isUnderWay) return
    const timer = setTimeout(() => setLate(true), NOTICED)
    return () => {
      clearTimeout(timer)
      setLate(false)
    }
  }, [isUnderWay])
  return isLate
}

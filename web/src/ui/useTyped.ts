// A field that is open: what is typed into it is an edit of the game as it was when it was opened, and is taken,
// or told, whatever becomes of the field.
import { useEffect, useRef, useState } from 'react'
import type { Failure } from '@/game/store'
import { opened, tellLost } from '@/game/typed'
import { useHeld } from './useHeld'

interface Field {
  /** Where it is, in words. */
  where: string
  /** Whether it is open, and what was typed since: null for nothing. */
  isOpen: boolean
  typed: string | null
  /** Saves what is typed, or says why not; called while the field's gesture goes on. */
  commit: (typed: string) => PromiseLike<Failure | null> | Failure | null
  onClosed: () => void
}

interface Typed {
  problem: string
  /** What is typed is another thing than what was refused. */
  forget: () => void
  /** Take what is typed, and close the field if it could be. */
  finish: () => void
  /** Close it without. */
  leave: () => void
  /** Something that is shown of it meanwhile. */
  within: (act: () => void) => void
}

const GONE = 'what it is of is not there any more'

export function useTyped(field: Field): Typed {
  const held = useHeld()
  const [problem, setProblem] = useState('')
  const latest = useRef({ ...field, problem, isBusy: false, isThere: true })
  useEffect(() => {
    Object.assign(latest.current, field, { problem })
  })
  const leave = () => {
    held.letGo()
    setProblem('')
    // It is told no more, should it go before it is drawn again.
    latest.current.typed = null
    latest.current.onClosed()
  }
  const finish = async () => {
    const now = latest.current
    if (!now.isOpen || now.isBusy) return
    const { typed, where } = now
    if (typed === null) return leave()
    now.isBusy = true
    const failure = await failureOf(() => held.within(() => now.commit(typed)))
    now.isBusy = false
    if (!failure) return leave()
    if (now.isThere) setProblem(failure.message)
    else tellLost(where, typed, failure.message)
  }
  const { isOpen } = field
  const finishing = useRef(finish)
  useEffect(() => {
    finishing.current = finish
  })
  useEffect(() => {
    if (!isOpen) return
    held.within(() => undefined)
    return opened(() => void finishing.current())
  }, [isOpen, held])
  useEffect(() => {
    const now = latest.current
    now.isThere = true
    return () => {
      now.isThere = false
      if (now.typed !== null && !now.isBusy) tellLost(now.where, now.typed, now.problem || GONE)
    }
  }, [])
  return {
    problem,
    forget: () => setProblem(''),
    finish: () => void finish(),
    leave,
    within: (act) => held.within(act),
  }
}

async function failureOf(
  commit: () => PromiseLike<Failure | null> | Failure | null,
): Promise<Failure | null> {
  try {
    return await commit()
  } catch (error) {
    return { message: error instanceof Error ? error.message : String(error) }
  }
}

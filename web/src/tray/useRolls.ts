// The tray's player: rolls what is in view, one event after another, until something changes.
import { tick } from '@/game/ticks'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'
import { api } from '@/api/client'
import type { RolledEvent, RollOut, View } from '@/api/types'
import { askedNow } from '@/game/asked'
import { useGame, useGamePart } from '@/game/store'

const KEPT = 300
const MOST_WAITING = 300

export interface Rolls {
  events: RolledEvent[]
  last: RollOut | null
  rolling: boolean
  roll: (count: number) => void
  clear: () => void
  /** Where the latest roll of each table fell on its strip, 0 to 1. */
  fell: Map<string, number>
}

export function useRolls(): Rolls {
  const { id, sheet, depth, revision, flags, replay } = useGamePart(
    'id',
    'sheet',
    'depth',
    'revision',
    'flags',
    'replay',
  )
  const view = sheet?.kind === 'source' || sheet?.kind === 'table' ? sheet : null
  const about = `${id}/${view?.kind}/${view?.id}/${depth}/${revision}/${flags.join()}/${replay?.seed}/${replay?.player}`
  const [state, setState] = useState<{
    about: string
    seed: number
    events: RolledEvent[]
    last: RollOut | null
  }>(() => ({ about, seed: newSeed(), events: [], last: null }))
  const [rolling, setRolling] = useState(false)
  const busy = useRef(false)
  const waiting = useRef(0) // rolls that were asked for while others were on their way
  const clear = useCallback(() => {
    waiting.current = 0
    useGame.setState({ held: [] })
    setState({ about, seed: newSeed(), events: [], last: null })
  }, [about])
  // Another source, another depth or an edit: the count begins again.
  useEffect(() => {
    if (state.about !== about) clear()
  }, [about, state.about, clear])

  const roll = useCallback(
    (count: number) => {
      if (!view || state.about !== about) return
      if (busy.current) {
        waiting.current = Math.min(waiting.current + count, MOST_WAITING)
        return
      }
      busy.current = true
      setRolling(true)
      const first = (state.last?.rolled ?? 0) + 1
      const asked = {
        view: view as View,
        depth,
        flags,
        ...askedNow(),
        ...(replay ?? { seed: state.seed, player: 0 }),
        first,
        count,
      }
      api
        .roll(id, asked)
        .then((out) => {
          tick(3)
          useGame.setState({ held: out.held })
          setState((now) =>
            now.about === about
              ? {
                  ...now,
                  last: out,
                  events: [...[...out.events].reverse(), ...now.events].slice(0, KEPT),
                }
              : now,
          )
        })
        .catch((error: Error) => toast.error(error.message))
        .finally(() => {
          busy.current = false
          setRolling(false)
        })
    },
    [id, view, depth, flags, state, about, replay],
  )
  useEffect(() => {
    if (rolling || !waiting.current) return
    const count = waiting.current
    waiting.current = 0
    roll(count)
  }, [rolling, roll])
  const current = state.about === about
  const newest = current ? state.events[0] : undefined
  const fell = useMemo(() => fallen(newest), [newest])
  return {
    events: current ? state.events : [],
    last: current ? state.last : null,
    rolling,
    roll,
    clear,
    fell,
  }
}

function newSeed(): number {
  return Math.floor(Math.random() * 2 ** 31)
}

function fallen(event: RolledEvent | undefined): Map<string, number> {
  const places = new Map<string, number>()
  for (const step of event?.steps ?? [])
    if (step.kind === 'pick' && step.table && step.number !== null && step.number !== undefined)
      places.set(step.table, step.number)
  return places
}

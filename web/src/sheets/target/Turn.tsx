// A number that is turned where it stands: dragged sideways, or by the arrow keys; what comes of it is seen
// everywhere meanwhile, and is an edit once it is let go.
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react'
import { api } from '@/api/client'
import type { Lever } from '@/api/types'
import { askedNow } from '@/game/asked'
import { setDraft, useGame } from '@/game/store'
import { take } from '@/game/edit'
import { written } from '@/text/format'

/** Pixels for a factor of e, and how far one key goes. */
const PACE = 120
const KEY = 0.05
const KEYS: Record<string, number> = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }

export function Turn({
  lever,
  name,
  onTurning,
}: {
  /** As it stood when it began to be turned, until it is let go. */
  lever: Lever
  name: string
  onTurning: (isTurning: boolean) => void
}) {
  const [step, setTheStep] = useState<number | null>(null)
  const setStep = (next: number | null) => {
    if ((next === null) !== (step === null)) onTurning(next !== null)
    setTheStep(next)
  }
  const from = useRef(0)
  const latest = useRef(0)
  const value = turned(lever, step ?? 0)
  /** The edit with which it stands so, unless something newer was asked meanwhile. */
  const entriesAt = async (at: number) => {
    const mine = ++latest.current
    const numbers = [{ where: lever.where, value: turned(lever, at) }]
    const { id, parts: seen } = useGame.getState()
    const { entries } = await api.takeNumbers(id, { ...askedNow(), numbers })
    return latest.current === mine ? { entries, seen } : null
  }
  const tried = (at: number) => {
    setStep(at)
    void entriesAt(at).then((made) => made && setDraft(made.entries, made.seen))
  }
  const letGo = async () => {
    if (step === null) return
    const made = await entriesAt(step)
    if (step && made) void take(`turned ${name}`, made.entries, made.seen)
    setDraft([])
    setStep(null)
  }
  const leave = () => {
    latest.current += 1
    setDraft([])
    setStep(null)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const by = KEYS[event.key]
    if (by !== undefined) tried((step ?? 0) + by * KEY)
    else if (event.key === 'Enter') void letGo()
    else if (event.key === 'Escape') leave()
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  const onPointerDown = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId)
    from.current = event.clientX
    setStep(0)
  }
  return (
    <span
      role="slider"
      tabIndex={0}
      aria-label={`turn ${name}`}
      aria-valuenow={value}
      aria-valuetext={leverText(lever, value)}
      title="Drag sideways, or use the arrows and Enter"
      className={`num cursor-ew-resize touch-none border-b border-dotted border-gold text-right ${step ? 'font-semibold' : ''}`}
      onKeyDown={onKeyDown}
      onPointerDown={onPointerDown}
      onPointerMove={(event) => {
        if (event.currentTarget.hasPointerCapture(event.pointerId))
          tried((event.clientX - from.current) / PACE)
      }}
      onPointerUp={() => void letGo()}
      onPointerCancel={leave}
      onBlur={() => step !== null && leave()}
    >
      {leverText(lever, value)}
    </span>
  )
}

/** A number after a step of its logarithm, of a chance's log-odds; with three digits. */
function turned({ sort, value }: Lever, step: number): number {
  if (step === 0) return value
  const next =
    sort === 'chance' ? 1 / (1 + ((1 - value) / value) * Math.exp(-step)) : value * Math.exp(step)
  return Number(next.toPrecision(3))
}

const leverText = ({ sort }: Lever, value: number) =>
  sort === 'chance' ? `${written(100 * value)}\u202f%` : written(value)

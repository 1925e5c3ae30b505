// Bands edited on the plumb line itself: their borders dragged or keyed, their names in a small menu.
import { useDrag } from '@use-gesture/react'
import { useState } from 'react'
import type { Band } from '@/api/types'
import { edit } from '@/game/edit'
import { freshId, type Parts } from '@/game/parts'
import { useGame, useGamePart } from '@/game/store'
import { Pop } from '@/ui/Menu'
import { SmallForm } from '@/ui/SmallForm'
import { useDragged } from '@/ui/useHeld'

interface Props {
  scale: React.RefObject<HTMLDivElement | null>
  step: number
  height: number
}

export function BandEdges({ scale, step, height }: Props) {
  const { parts } = useGamePart('parts')
  const { from } = parts.settings.depth
  const bands = parts.settings.depth.bands ?? []
  return (
    <>
      {bands.map((band, at) => (
        <BandName
          key={band.id}
          band={band}
          at={at}
          top={(band.from - from) * step}
          height={(band.to - band.from + 1) * step}
        />
      ))}
      {bands.map(
        (band, at) =>
          liesBelow(band, bands[at - 1]) && (
            <Edge key={band.id} at={at} top={(band.from - from) * step} scale={scale} step={step} />
          ),
      )}
      {bands.length === 0 && height > 0 && (
        <button
          type="button"
          className="absolute -top-7 left-0 w-full text-center text-tiny text-mist underline decoration-white/40 underline-offset-2"
          onPointerDown={(event) => event.stopPropagation()}
          onClick={() => void save('first band', () => [wholeBand()])}
        >
          + band
        </button>
      )}
    </>
  )
}

const withBands = (changed: (bands: Band[]) => Band[]) => (game: Parts) => {
  game.settings.depth.bands = changed(game.settings.depth.bands ?? [])
}
const save = (label: string, changed: (bands: Band[]) => Band[]) => edit(label, withBands(changed))

function wholeBand(): Band {
  const { from, to } = useGame.getState().parts.settings.depth
  return { ...BLANK, id: 'band', name: 'First band', from, to }
}

const BLANK = {
  spawns: null,
  encounters: { min: 1, max: 1, step: 1, dice: null, curve: null },
  between_seconds: 0,
}

/** A border is drawn between bands that follow one another; those that overlap have none in common. */
const liesBelow = (band: Band, above: Band | undefined) =>
  above !== undefined && above.to < band.from

/** The border above band `at` moved to a depth, between its neighbours' other borders. */
export function withEdge(bands: Band[], at: number, depth: number): Band[] {
  const above = bands[at - 1]
  const below = bands[at]
  if (!above || !below) return bands
  const kept = Math.min(below.to, Math.max(above.from + 1, depth))
  return bands.map((band, n) =>
    n === at - 1 ? { ...band, to: kept - 1 } : n === at ? { ...band, from: kept } : band,
  )
}

function Edge({
  at,
  top,
  scale,
  step,
}: {
  at: number
  top: number
  scale: Props['scale']
  step: number
}) {
  const settings = useGame((state) => state.parts.settings)
  const bands = settings.depth.bands ?? []
  const below = bands[at]
  const drag = useDragged()
  const bind = useDrag(
    ({ xy: [, page], last, canceled, tap }) => {
      if (tap) return
      const box = scale.current?.getBoundingClientRect().top ?? 0
      const depth = settings.depth.from + Math.round((page - box) / step)
      const moved = withBands((now) => withEdge(now, at, depth))
      drag({ last, canceled }, `border of ${below?.name}`, moved)
    },
    { filterTaps: true, pointer: { keys: false } },
  )
  const held = bind()
  return (
    <div
      {...held}
      role="slider"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`border above ${below?.name}`}
      aria-valuenow={below?.from}
      aria-valuemin={settings.depth.from}
      aria-valuemax={settings.depth.to}
      className="group absolute inset-x-0 z-10 h-[9px] -translate-y-1/2 cursor-row-resize touch-none"
      style={{ top }}
      onPointerDown={(event) => {
        // The line beneath would take it for a new depth.
        held.onPointerDown?.(event)
        event.stopPropagation()
      }}
      onKeyDown={(event) => {
        const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
        if (!by) return
        event.preventDefault()
        event.stopPropagation()
        void save(`border of ${below?.name}`, (now) => withEdge(now, at, (now[at]?.from ?? 0) + by))
      }}
    >
      <span className="absolute inset-x-0 top-1/2 h-[2px] -translate-y-1/2 group-hover:bg-gold group-focus-visible:bg-gold" />
    </div>
  )
}

function BandName({
  band,
  at,
  top,
  height,
}: {
  band: Band
  at: number
  top: number
  height: number
}) {
  const [open, setOpen] = useState(false)
  return (
    <span onPointerDown={(event) => event.stopPropagation()}>
      <Pop
        label={`band ${band.name}`}
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button
            type="button"
            aria-label={`band ${band.name}`}
            title={`${band.name}, ${band.from} to ${band.to}: rename, split, merge`}
            className="absolute left-0 w-4 hover:bg-white/15"
            style={{ top: top + 5, height: Math.max(8, height - 10) }}
          />
        }
      >
        <BandForm band={band} at={at} onDone={() => setOpen(false)} />
      </Pop>
    </span>
  )
}

function BandForm({ band, at, onDone }: { band: Band; at: number; onDone: () => void }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const bands = parts.settings.depth.bands ?? []
  const [name, setName] = useState(band.name)
  const [problem, setProblem] = useState('')
  const done = async (label: string, changed: (bands: Band[]) => Band[]) => {
    const failure = await save(label, changed)
    if (failure) setProblem(failure.message)
    else onDone()
  }
  const canSplit = depth > band.from && depth <= band.to
  const split = () => {
    const id = freshId(`${band.name} lower`, new Set(bands.map((one) => one.id)))
    void done(`split ${band.name}`, (now) =>
      now.flatMap((one) =>
        one.id === band.id
          ? [
              { ...one, to: depth - 1 },
              { ...one, id, name: `${one.name}, lower`, from: depth },
            ]
          : [one],
      ),
    )
  }
  const merge = () => {
    const next = bands[at + 1]
    if (!next) return
    void done(`merged ${next.name} into ${band.name}`, (now) =>
      now
        .filter((one) => one.id !== next.id)
        .map((one) => (one.id === band.id ? { ...one, to: next.to } : one)),
    )
  }
  return (
    <SmallForm
      className="w-64"
      problem={problem}
      saves="Rename"
      onSave={() => {
        void done(`renamed to ${name}`, (now) =>
          now.map((one) => (one.id === band.id ? { ...one, name: name.trim() } : one)),
        )
      }}
      more={
        <>
          <button type="button" className="plain-button" disabled={!canSplit} onClick={split}>
            Split at {depth}
          </button>
          <button
            type="button"
            className="plain-button"
            disabled={at === bands.length - 1}
            onClick={merge}
          >
            Merge with the next
          </button>
          <button
            type="button"
            className="plain-button text-bad"
            onClick={() =>
              void done(`removed ${band.name}`, (now) => now.filter((one) => one.id !== band.id))
            }
          >
            Remove
          </button>
        </>
      }
    >
      <input
        aria-label="name of the band"
        className="field name w-full text-lead"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <p className="text-muted">
        {parts.settings.words?.depth ?? 'depth'}s {band.from} to {band.to}; drag its borders on the
        line.
      </p>
    </SmallForm>
  )
}

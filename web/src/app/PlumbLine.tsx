// How deep we look, always there: a weight on a line, dragged, keyed or typed. Beside the scale the
// profile of what is in view.
import { useDrag } from '@use-gesture/react'
import { useLayoutEffect, useRef, useState } from 'react'
import { useFindings, useProfile, useTargets } from '@/game/queries'
import { BandEdges } from './BandEdges'
import { ScaleForm } from './ScaleForm'
import type { ProfileOut, Settings, Standing, View } from '@/api/types'
import type { Parts } from '@/game/parts'
import { touched } from '@/game/targets'
import { setDepth, useGame, viewInSight, type Sheet, useGamePart } from '@/game/store'
import { EditText } from '@/ui/EditText'
import { GoldDie } from '@/ui/Marks'
import { typedDepth } from '@/text/format'

const TINTS = ['#2f6a5e', '#265a50', '#1d4a42', '#163c36', '#0f2d29']
const LEFT = 30

export function PlumbLine() {
  const { parts, depth, draft } = useGamePart('parts', 'depth', 'draft')
  const scale = useRef<HTMLDivElement>(null)
  const [height, setHeight] = useState(600)
  const { data: profile } = useProfile()
  useLayoutEffect(() => {
    const watched = new ResizeObserver(([entry]) => {
      if (!entry) return
      setHeight(entry.contentRect.height)
      const top = scale.current?.getBoundingClientRect().top ?? 0
      useGame.setState({ scaleBox: { top, height: entry.contentRect.height } })
    })
    if (scale.current) watched.observe(scale.current)
    return () => watched.disconnect()
  }, [])
  const drafted = draft.find((one) => one.kind === 'settings')?.body as unknown as
    Settings | undefined
  const { from, to, bands = [] } = (drafted ?? parts.settings).depth
  const count = to - from + 1
  const step = height / count
  const y = (d: number) => (d - from) * step
  const slider = useRef<HTMLDivElement>(null)
  const bind = useDrag(({ xy: [, page], first }) => {
    if (first) slider.current?.focus()
    const top = scale.current?.getBoundingClientRect().top ?? 0
    setDepth(from + Math.floor((page - top) / step))
  })
  const band = bands.find((one) => one.from <= depth && depth <= one.to)
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <aside className="flex w-[76px] shrink-0 flex-col bg-pine text-mist" aria-label={word}>
      <div className="flex h-10 items-center justify-center border-b border-white/10">
        <GoldDie />
      </div>
      <div className="flex h-[104px] flex-col items-center pt-2.5 text-center leading-tight">
        <span className="text-tiny">{word}</span>
        <EditText
          label={word}
          text={String(depth)}
          className="num border-b-2 border-gold text-sheet leading-8 text-white"
          inputClass="num w-14 text-ink text-center"
          onCommit={(text) => {
            const typed = typedDepth(text, [from, to])
            if (typeof typed === 'string') return { message: typed }
            setDepth(typed)
            return null
          }}
        />
        <span className="name mt-1 text-note">{band?.name ?? ''}</span>
      </div>
      <div
        ref={scale}
        {...bind()}
        className="relative mb-9 flex-1 cursor-ns-resize touch-none select-none"
      >
        <div
          ref={slider}
          role="slider"
          tabIndex={0}
          aria-label={word}
          aria-orientation="vertical"
          aria-valuenow={depth}
          aria-valuemin={from}
          aria-valuemax={to}
          className="absolute inset-0"
          onKeyDown={(event) => {
            const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 5, PageUp: -5 }[event.key]
            if (by) setDepth(depth + by)
          }}
        />
        <svg width="76" height={height} className="absolute inset-0" aria-hidden>
          {bands.map((one, at) => (
            <g key={one.id}>
              <rect
                x="0"
                width="76"
                y={y(one.from)}
                height={y(one.to + 1) - y(one.from)}
                fill={TINTS[at % TINTS.length]}
              />
              <text
                transform={`translate(3,${y(one.from) + 7}) rotate(90)`}
                fontSize="10.5"
                fill="var(--color-mist)"
              >
                {one.name}
              </text>
              <line x1="0" x2="76" y1={y(one.from)} y2={y(one.from)} stroke="#fff" opacity="0.25" />
            </g>
          ))}
          {Array.from({ length: count }, (_, at) => (
            <line
              key={at}
              x1={LEFT - (marked(from + at, from, to) ? 6 : 3)}
              x2={LEFT}
              y1={y(from + at) + step / 2}
              y2={y(from + at) + step / 2}
              stroke="var(--color-mist)"
              opacity="0.55"
            />
          ))}
          {Array.from({ length: count }, (_, at) => from + at)
            .filter((d) => marked(d, from, to) && d !== depth)
            .map((d) => (
              <text
                key={d}
                x={LEFT - 8}
                y={y(d) + step / 2 + 3}
                fontSize="9"
                textAnchor="end"
                className="num"
                fill="var(--color-mist)"
              >
                {d}
              </text>
            ))}
          {profile && <Profile profile={profile} y={y} step={step} />}
          <Marked y={y} />
          <MissedTargets y={y} step={step} />
          <line x1={LEFT} x2={LEFT} y1="0" y2={y(depth) + step / 2} stroke="#fff" opacity="0.8" />
          <line
            x1={LEFT}
            x2="76"
            y1={y(depth) + step / 2}
            y2={y(depth) + step / 2}
            stroke="var(--color-gold)"
            strokeWidth="1.5"
          />
          <path
            transform={`translate(${LEFT},${y(depth) + step / 2})`}
            d="M-6,-7h12v5l-6,10l-6,-10z"
            fill="var(--color-gold)"
          />
        </svg>
        <span className="absolute inset-x-0 -bottom-8 flex items-baseline justify-between pl-1.5 pr-1">
          <ScaleForm />
          {profile && <SharesSwitch />}
        </span>
        <BandEdges scale={scale} step={step} height={height} />
      </div>
    </aside>
  )
}

/** Where the selected line is open, and where something odd was found of what is in view. */
function Marked({ y }: { y: (d: number) => number }) {
  const { parts, focus, sheet } = useGamePart('parts', 'focus', 'sheet')
  const { data } = useFindings()
  const line =
    focus?.kind === 'line'
      ? parts.table.get(focus.table ?? '')?.lines.find((one) => one.id === focus.line)
      : undefined
  const odd = (data?.findings ?? []).filter(
    (one) => one.kind === sheet?.kind && one.id === sheet.id && one.depths,
  )
  return (
    <g>
      {line?.depths && (
        <path
          d={`M43,${y(line.depths[0]) + 1}h-3V${y(line.depths[1] + 1) - 1}h3`}
          fill="none"
          stroke="#fff"
          strokeWidth="1.5"
        >
          <title>{`open ${line.depths[0]} to ${line.depths[1]}`}</title>
        </path>
      )}
      {odd.map((one) => (
        <rect
          key={one.path + one.message}
          x="73"
          width="3"
          y={y(one.depths?.[0] ?? 0)}
          height={y((one.depths?.[1] ?? 0) + 1) - y(one.depths?.[0] ?? 0)}
          fill="#e0b04a"
        >
          <title>{one.message}</title>
        </rect>
      ))}
    </g>
  )
}

/** Where a target of what is in view is missed: a notch in the edge of the scale. */
function MissedTargets({ y, step }: { y: (d: number) => number; step: number }) {
  const { parts, sheet } = useGamePart('parts', 'sheet')
  const view = useGame(viewInSight)
  const { data } = useTargets(aboutTargets(parts, sheet, view))
  const missed = missedBy(data?.targets ?? [])
  return (
    <g>
      {[...missed].map(([d, ids]) => (
        <path
          key={d}
          data-missed={d}
          d={`M76,${y(d) + 1}v${Math.max(1, step - 2)}l-6,${-Math.max(1, step - 2) / 2}z`}
          fill="#f0907f"
        >
          <title>{ids.map((id) => `${parts.target.get(id)?.name}: missed`).join('\n')}</title>
        </path>
      ))}
    </g>
  )
}

/** The targets that the marks are of: the one in view, all (null) on their sheet, or those touched. */
function aboutTargets(parts: Parts, sheet: Sheet | null, view: View | null): string[] | null {
  if (sheet?.kind === 'target') return [sheet.id]
  if (sheet?.kind === 'targets') return null
  return touched(parts, view).map((one) => one.id)
}

function missedBy(standings: Standing[]): Map<number, string[]> {
  const missed = new Map<number, string[]>()
  for (const one of standings)
    one.holds.forEach((held, row) => {
      const d = one.depths[row]
      if (!held && d !== undefined) missed.set(d, [...(missed.get(d) ?? []), one.id])
    })
  return missed
}

const marked = (d: number, from: number, to: number) => d === from || d === to || d % 5 === 0

/** Of what the silhouette above it is: a rare tier vanishes from what falls, never from its worth. */
function SharesSwitch() {
  const shares = useGame((state) => state.shares)
  const other = shares === 'falls' ? 'worth' : 'falls'
  return (
    <button
      type="button"
      aria-label={`tier shares of ${WORDS[shares]}; show those of ${WORDS[other]}`}
      title={`tier shares of ${WORDS[shares]}; click for ${WORDS[other]}`}
      className="text-tiny text-mist underline decoration-white/40 underline-offset-2"
      onPointerDown={(event) => event.stopPropagation()}
      onClick={() => useGame.setState({ shares: other })}
    >
      {shares}
    </button>
  )
}

const WORDS = { falls: 'what falls', worth: 'its worth' } as const

/** Tier shares of what falls, or of its worth, as a slim stacked silhouette. */
function Profile({
  profile,
  y,
  step,
}: {
  profile: ProfileOut
  y: (d: number) => number
  step: number
}) {
  const tiers = [...useGame((state) => state.parts.tier).values()]
  const shares = useGame((state) => state.shares)
  const left = 46
  const width = 26
  return (
    <g>
      {profile.depths.map((d, row) => {
        if (d < profile.met[0] || d > profile.met[1]) return null
        let x = left
        return profile[shares][row]?.map((share, at) => {
          const from = x
          x += share * width
          if (share === 0) return null
          return (
            <rect
              key={`${d},${at}`}
              data-tier={tiers[at]?.id}
              x={from}
              width={Math.max(0, x - from)}
              y={y(d)}
              height={step + 0.4}
              fill={tiers[at]?.colour}
            />
          )
        })
      })}
    </g>
  )
}

// A curve, edited where depth runs downward beside the plumb line. Every number on screen follows; the
// curve as it was stays as an outline until the edit is done.
import { useDrag } from '@use-gesture/react'
import { useEffect, useRef, useState } from 'react'
import type { Curve } from '@/api/types'
import { curveEntry } from '@/game/curves'
import { commit } from '@/game/sync'
import { setDraft, show, useGame, useGamePart } from '@/game/store'
import { AxisHead, DepthFrame, useDepthScale, type DepthScale } from '@/plots/DepthFrame'
import { entered, figures, typedNumber } from '@/ui/format'
import { EditText } from '@/ui/EditText'
import { Menu } from '@/ui/Menu'
import { usersOf } from './users'
import {
  curveOfWords,
  moved,
  PHRASES,
  valueAt,
  withoutPoint,
  withPoint,
  type Points,
} from './points'

const WIDTH = 360
const PAD = 14
const SHAPES = {
  line: 'straight lines between points',
  step: 'steps: each value holds until the next',
  ease: 'smooth between points',
} as const

export function CurveSheet({ id }: { id: string }) {
  const { parts, draft, depth } = useGamePart('parts', 'draft', 'depth')
  const scale = useDepthScale()
  const saved = parts.curve.get(id)
  const lastView = useGame((state) => state.lastView)
  useEffect(() => {
    // Opened by its address: its effect is shown on the first source that it scales.
    if (lastView && parts[lastView.kind].has(lastView.id)) return
    const user = usersOf(parts, id).find((one) => one.sheet.kind === 'source')
    const source = user?.sheet.id ?? [...parts.source.keys()][0]
    if (source) useGame.setState({ lastView: { kind: 'source', id: source } })
  }, [lastView, parts, id])
  if (!saved) return <p className="p-6 text-muted">This curve is gone.</p>
  const drafted = draft.find((one) => one.kind === 'curve' && one.id === id)?.body
  const curve = (drafted as unknown as Curve | undefined) ?? saved
  const save = (label: string, changed: Partial<Curve>) =>
    commit(`${label}, ${saved.name}`, [curveEntry({ ...saved, ...changed })])
  const range: [number, number] = [scale.from, scale.to]
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1">
        <EditText
          label="name of the curve"
          text={saved.name}
          className="name text-left text-[24px] leading-8"
          inputClass="name text-[22px] w-72"
          onCommit={(name) => save('renamed', { name })}
        />
        <p className="flex flex-wrap items-baseline gap-x-3 text-[12px] text-muted">
          <Menu
            label="shape of the curve"
            trigger={
              <button type="button" className="choice text-ink">
                {SHAPES[saved.shape]}
              </button>
            }
            entries={(['line', 'step', 'ease'] as const).map((shape) => ({
              label: SHAPES[shape],
              disabled: shape === saved.shape,
              run: () => void save('shape', { shape }),
            }))}
          />
          <span>
            ×<b className="num text-ink">{figures(valueAt(curve, depth))}</b> here
          </span>
          {saved.private && (
            <button
              type="button"
              className="choice text-ink"
              title="It is offered nowhere else, and goes when its place takes another curve."
              onClick={() => void save('shared', { private: false })}
            >
              private: let others use it
            </button>
          )}
          <InWords range={range} onMade={(made, words) => save(words, made)} />
        </p>
      </header>
      <DepthFrame>
        <div className="flex pl-5">
          <Plot
            saved={saved}
            curve={curve}
            scale={scale}
            onSave={(points) => save('points', { points })}
          />
          <div className="w-[250px] pl-6 text-[12px]">
            <PointList
              curve={curve}
              range={range}
              onSave={(points) => save('points', { points })}
            />
            <Users id={id} />
          </div>
        </div>
      </DepthFrame>
    </div>
  )
}

function Plot({
  saved,
  curve,
  scale,
  onSave,
}: {
  saved: Curve
  curve: Curve
  scale: DepthScale
  onSave: (points: Points) => void
}) {
  const box = useRef<SVGSVGElement>(null)
  const points = curve.points as Points
  // The axis holds still while a point is dragged, or the point would run from the hand.
  const [held, setHeld] = useState<number | null>(null)
  const most = held ?? nice(Math.max(1, ...points.map(([, value]) => value)))
  const x = (value: number) => PAD + (value / most) * (WIDTH - 2 * PAD)
  const at = (page: [number, number]): [number, number] => {
    const rect = box.current?.getBoundingClientRect()
    const value = ((page[0] - (rect?.left ?? 0) - PAD) / (WIDTH - 2 * PAD)) * most
    return [scale.from + Math.floor((page[1] - (rect?.top ?? 0)) / scale.step), Math.max(0, value)]
  }
  return (
    <div style={{ marginTop: -34 }}>
      <AxisHead
        ends={['×0', `×${figures(most)}`]}
        title="double-click adds a point"
        width={WIDTH}
      />
      <svg
        ref={box}
        width={WIDTH}
        height={scale.height}
        role="img"
        aria-label={`curve ${curve.name}`}
        className="touch-none select-none"
        onDoubleClick={(event) => onSave(withPoint(points, ...at([event.clientX, event.clientY])))}
      >
        <rect width={WIDTH} height={scale.height} fill="#fcf9f2" stroke="#ddd2bf" />
        <line x1={x(1)} x2={x(1)} y1="0" y2={scale.height} stroke="#ddd2bf" strokeDasharray="3 3" />
        <text x={x(1) + 3} y="11" fontSize="10" fill="#6d6258" className="num">
          ×1
        </text>
        {saved !== curve && <Trace curve={saved} scale={scale} x={x} faint />}
        <Trace curve={curve} scale={scale} x={x} />
        {points.map(([d, value], n) => (
          <Handle
            key={n}
            place={[x(value), scale.y(d)]}
            words={`point at ${d}: ×${figures(value)}`}
            onMove={(page, done) => {
              setHeld(done ? null : most)
              const [depth, next] = at(page)
              const now = moved(points, n, depth, next, [scale.from, scale.to])
              if (done) {
                void onSave(now)
                setDraft([])
              } else setDraft([curveEntry({ ...curve, points: now })])
            }}
            onKey={(key) => {
              const step = most / 100
              if (key === 'Delete') return onSave(withoutPoint(points, n))
              const by = {
                ArrowRight: [0, step],
                ArrowLeft: [0, -step],
                ArrowDown: [1, 0],
                ArrowUp: [-1, 0],
              }[key]
              if (by)
                onSave(
                  moved(points, n, d + (by[0] ?? 0), value + (by[1] ?? 0), [scale.from, scale.to]),
                )
            }}
          />
        ))}
      </svg>
    </div>
  )
}

function Trace({
  curve,
  scale,
  x,
  faint,
}: {
  curve: Curve
  scale: DepthScale
  x: (v: number) => number
  faint?: boolean
}) {
  const steps = 8
  const count = (scale.to - scale.from) * steps
  const line = Array.from({ length: count + 1 }, (_, at) => scale.from + at / steps).map(
    (d) => `${x(valueAt(curve, d)).toFixed(1)},${scale.y(d).toFixed(1)}`,
  )
  const edge = (d: number, y: number) => `${x(valueAt(curve, d)).toFixed(1)},${y}`
  const all = [edge(scale.from, 0), ...line, edge(scale.to, scale.height)]
  return (
    <g>
      {!faint && (
        <polygon
          points={`${x(0)},0 ${all.join(' ')} ${x(0)},${scale.height}`}
          fill="#12312c"
          opacity="0.08"
        />
      )}
      <polyline
        points={all.join(' ')}
        fill="none"
        stroke={faint ? '#a89d8f' : '#12312c'}
        strokeWidth={faint ? 1.2 : 2}
        strokeDasharray={faint ? '4 3' : undefined}
      />
    </g>
  )
}

function Handle({
  place: [x, y],
  words,
  onMove,
  onKey,
}: {
  place: [number, number]
  words: string
  onMove: (page: [number, number], done: boolean) => void
  onKey: (key: string) => void
}) {
  const bind = useDrag(({ xy, last, tap }) => (tap ? undefined : onMove(xy, last)), {
    filterTaps: true,
    pointer: { keys: false },
  })
  return (
    <circle
      {...bind()}
      cx={x}
      cy={y}
      r="6"
      tabIndex={0}
      role="slider"
      aria-label={words}
      aria-valuetext={words}
      aria-valuenow={0}
      className="cursor-grab touch-none fill-gold stroke-ink outline-none focus-visible:stroke-[3px]"
      onDoubleClick={(event) => event.stopPropagation()}
      onKeyDown={(event) => {
        if (!event.key.startsWith('Arrow') && event.key !== 'Delete') return
        event.preventDefault()
        event.stopPropagation()
        onKey(event.key)
      }}
    >
      <title>{words}</title>
    </circle>
  )
}

function PointList({
  curve,
  range,
  onSave,
}: {
  curve: Curve
  range: [number, number]
  onSave: (points: Points) => Promise<unknown>
}) {
  const points = curve.points as Points
  const typed = (n: number, which: 0 | 1) => (text: string) => {
    const value = typedNumber(text.replace('×', ''))
    if (value === null || value < 0) return { message: 'a number, 0 or more' }
    if (which === 0 && points.some(([d], other) => other !== n && d === value))
      return { message: `there is a point at ${value} already; drag that one` }
    if (which === 0 && (!Number.isInteger(value) || value < range[0] || value > range[1]))
      return { message: `a whole number from ${range[0]} to ${range[1]}` }
    const next = points.map((point, other): [number, number] =>
      other !== n ? point : which === 0 ? [value, point[1]] : [point[0], value],
    )
    void onSave([...next].sort((a, b) => a[0] - b[0]))
    return null
  }
  return (
    <table aria-label="points" className="num mb-4">
      <tbody>
        {points.map(([d, value], n) => (
          <tr key={n}>
            <td className="pr-2 text-right">
              <EditText
                label={`depth of point ${n + 1}`}
                text={String(d)}
                className="choice num text-ink"
                inputClass="num w-14"
                onCommit={typed(n, 0)}
              />
            </td>
            <td className="pr-2 text-right">
              <EditText
                label={`multiplier of point ${n + 1}`}
                text={entered(value)}
                show={<>×{entered(value)}</>}
                className="choice num text-ink"
                inputClass="num w-20"
                onCommit={typed(n, 1)}
              />
            </td>
            <td>
              {points.length > 1 && (
                <button
                  type="button"
                  aria-label={`take out point ${n + 1}`}
                  className="px-1 text-muted hover:text-bad"
                  onClick={() => void onSave(withoutPoint(points, n))}
                >
                  ×
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function InWords({
  range,
  onMade,
}: {
  range: [number, number]
  onMade: (made: Pick<Curve, 'shape' | 'points'>, words: string) => Promise<unknown>
}) {
  const [text, setText] = useState('')
  const [problem, setProblem] = useState('')
  return (
    <form
      className="ml-auto flex items-baseline gap-1.5"
      onKeyDown={(event) => event.stopPropagation()}
      onSubmit={(event) => {
        event.preventDefault()
        const made = curveOfWords(text, ...range)
        if (!made) return setProblem('say it like one of the list')
        setProblem('')
        setText('')
        void onMade(made, text.trim())
      }}
    >
      {problem && (
        <span role="alert" className="text-bad">
          {problem}
        </span>
      )}
      <input
        aria-label="the curve in words"
        list="curve-phrases"
        placeholder="in words: doubles every 5"
        className="field w-52"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <datalist id="curve-phrases">
        {PHRASES.map((phrase) => (
          <option key={phrase} value={phrase} />
        ))}
      </datalist>
    </form>
  )
}

/** Everything that this curve scales; each leads to its place. */
function Users({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const users = usersOf(parts, id)
  if (!users.length)
    return (
      <p className="text-muted">
        Nothing is scaled by it yet. Choose it on a tier, line, drop or quantity.
      </p>
    )
  return (
    <div>
      <p className="head mb-0.5">Scales</p>
      {users.map((user) => (
        <button
          key={user.key}
          type="button"
          className="flex w-full items-baseline gap-2 text-left hover:bg-gold-wash"
          onClick={() => show(user.sheet)}
        >
          <span className="name truncate">{user.name}</span>
          <span className="label ml-auto shrink-0">{user.what}</span>
        </button>
      ))}
    </div>
  )
}

/** The next round number, so that the axis ends on one. */
function nice(x: number): number {
  const unit = 10 ** Math.floor(Math.log10(x))
  return (
    [1, 1.5, 2, 2.5, 3, 4, 5, 6, 8, 10].map((n) => n * unit).find((n) => n >= x * 1.02) ?? 10 * unit
  )
}

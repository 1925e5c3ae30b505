// A route as a dive: time to the right, depth downward on the plumb line's axis; a stop a bead, and the line
// as broad as what is gained there is worth. Beads where legs begin and end are dragged, or keyed.
import { useDrag } from '@use-gesture/react'
import { scaleLinear } from 'd3-scale'
import { useRef } from 'react'
import type { Route, RouteOdds } from '@/api/types'
import { edit } from '@/game/edit'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { Figure } from '@/plots/Figure'
import { AxisHead, type DepthScale } from '@/plots/DepthFrame'
import { figures, whole } from '@/text/format'
import { useDragged } from '@/ui/useHeld'
import { stopsOf, withEnd, type StopPlace } from './legs'

const WIDTH = 250
const PAD = 14
const MOST = 9 // px, of the line

interface Props {
  route: Route
  odds: RouteOdds | undefined
  scale: DepthScale
}

export function DiveProfile({ route, odds, scale }: Props) {
  const currency = useGame((state) => state.parts.settings.currency)
  const stops = stopsOf(route.legs)
  const told = odds?.stops.length === stops.length && odds.method === 'exact' ? odds.stops : null
  // By time where it is known, else stop by stop.
  const times = stops.map((_, at) => (told ? (told[at]?.seconds_mean ?? 0) / 60 : at + 1))
  const end = Math.max(...times, 1e-9)
  const x = scaleLinear([0, end], [PAD, WIDTH - PAD])
  const gained = stops.map((_, at) =>
    told ? (told[at]?.value?.mean ?? 0) - (told[at - 1]?.value?.mean ?? 0) : 0,
  )
  const most = Math.max(...gained, 1e-9)
  const place = (at: number): [number, number] => [
    x(times[at] ?? 0),
    scale.y(stops[at]?.depth ?? 1),
  ]
  return (
    <div className="relative shrink-0" style={{ marginTop: -34, width: WIDTH }}>
      <AxisHead
        ends={['0', told ? `${figures(end)} min` : `${stops.length} stops`]}
        title={told ? 'time' : 'stop by stop'}
        width={WIDTH}
      />
      <div className="relative">
        <Figure
          name={`${route.name}, the dive`}
          says={`${stops.length} stops, from ${stops[0]?.depth ?? '–'} to ${stops.at(-1)?.depth ?? '–'}`}
          width={WIDTH}
          height={scale.height}
          isFluid={false}
          across={[0, scale.height]}
          readings={stops.map((stop, at) => ({
            at: place(at)[0],
            says: told
              ? `stop ${at + 1}, at ${stop.depth}\n+${figures(gained[at])} ${currency}, ${figures(told[at]?.value?.mean)} so far`
              : `stop ${at + 1}, at ${stop.depth}`,
          }))}
          numbers={() => ({
            heads: ['stop', 'depth', 'minutes', `${currency} gained`, `${currency} so far`, 'sd'],
            rows: stops.map((stop, at) => [
              at + 1,
              stop.depth,
              told ? (times[at] ?? null) : null,
              told ? (gained[at] ?? null) : null,
              told?.[at]?.value?.mean ?? null,
              told?.[at]?.value?.sd ?? null,
            ]),
          })}
        >
          {stops.slice(1).map((_, n) => {
            const [[x1, y1], [x2, y2]] = [place(n), place(n + 1)]
            return (
              <line
                key={n}
                {...{ x1, x2, y1, y2 }}
                stroke="var(--color-verdigris)"
                strokeLinecap="round"
                strokeWidth={1 + (MOST * Math.max(0, gained[n + 1] ?? 0)) / most}
                opacity="0.55"
              />
            )
          })}
          {stops.map((_, at) => {
            const [cx, cy] = place(at)
            return <circle key={at} cx={cx} cy={cy} r="2.6" fill="var(--color-pine)" />
          })}
        </Figure>
        {stops.map((stop, at) =>
          stop.begins || stop.ends ? (
            <Bead
              key={`${stop.leg}${stop.begins ? 'from' : 'to'}`}
              stop={stop}
              place={place(at)}
              route={route}
              scale={scale}
            />
          ) : null,
        )}
      </div>
    </div>
  )
}

function Bead({
  stop,
  place: [left, top],
  route,
  scale,
}: {
  stop: StopPlace
  place: [number, number]
  route: Route
  scale: DepthScale
}) {
  const began = useRef(0)
  const drag = useDragged()
  const end = stop.begins ? 'from' : 'to'
  const id = route.legs[stop.leg]?.id
  const at = (depth: number) => {
    const kept = Math.max(scale.from, Math.min(scale.to, depth))
    return (game: Parts) => {
      const mine = game.route.get(route.id)?.legs.find((leg) => leg.id === id)
      if (mine) Object.assign(mine, withEnd(mine, end, kept))
    }
  }
  const label = `moved a stop, ${route.name}`
  const bind = useDrag(
    ({ first, last, canceled, tap, movement: [, down] }) => {
      if (first) began.current = stop.depth
      if (!tap) drag({ last, canceled }, label, at(began.current + Math.round(down / scale.step)))
    },
    { filterTaps: true, pointer: { keys: false } },
  )
  const word = useGame((state) => state.parts.settings.words?.depth ?? 'depth')
  return (
    <div
      {...bind()}
      role="slider"
      tabIndex={0}
      aria-orientation="vertical"
      aria-label={`leg ${stop.leg + 1} ${stop.begins ? 'begins' : 'ends'} at ${word}`}
      aria-valuenow={stop.depth}
      aria-valuemin={scale.from}
      aria-valuemax={scale.to}
      title={`leg ${stop.leg + 1}, ${word} ${whole(stop.depth)}`}
      className="absolute z-20 h-[13px] w-[13px] cursor-row-resize touch-none rounded-full border-2 border-gold bg-raised"
      style={{ left: left - 6.5, top: top - 6.5 }}
      onKeyDown={(event) => {
        const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 5, PageUp: -5 }[event.key]
        if (!by) return
        event.preventDefault()
        event.stopPropagation()
        void edit(label, at(stop.depth + by))
      }}
    />
  )
}

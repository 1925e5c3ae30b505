// Down the depths, all in one picture: what an hour is worth as it is met, by tier; what is met; where targets
// are missed and where something is odd.
import { useFindings, useTargets } from '@/game/queries'
import type { Overview } from '@/api/types'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { Figure } from '@/plots/Figure'
import { mostOf } from '@/plots/ends'
import { figures } from '@/text/format'

const LEFT = 34
const BARS = 300
const LANE = 11
const MARKS = 40
const HEAD = 86

export function Along({ data }: { data: Overview }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const missed = useMissed()
  const odd = useOdd()
  const word = parts.settings.words?.depth ?? 'depth'
  const tiers = [...parts.tier.values()]
  const count = data.depths.length
  const step = Math.max(3, Math.min(14, 420 / count))
  const worth = (row: number) => tiers.map((tier) => data.worth[tier.id]?.[row] ?? 0)
  const whole = data.depths.map((_, row) => worth(row).reduce((sum, one) => sum + one, 0))
  const most = mostOf(whole, 1e-300)
  const sources = Object.keys(data.met)
  const lanes = LEFT + BARS + 64
  const marks = lanes + sources.length * LANE + 8
  const width = marks + MARKS
  const y = (row: number) => HEAD + row * step
  const says = (row: number) => [
    `${word} ${data.depths[row]}: worth ${figures(whole[row] ?? 0)} an hour`,
    ...tiers.flatMap((tier, at) => {
      const value = worth(row)[at] ?? 0
      return value > 0 ? [`${tier.name} ${figures(value)}`] : []
    }),
    ...sources.flatMap((id) => {
      const many = data.met[id]?.[row] ?? 0
      return many > 0 ? [`${parts.source.get(id)?.name}: ${figures(many)} an hour`] : []
    }),
    ...(missed.get(data.depths[row] ?? 0) ?? []).map((name) => `missed: ${name}`),
    ...(odd.get(data.depths[row] ?? 0) ?? []).map((name) => `odd: ${name}`),
  ]
  return (
    <section aria-label="down the depths">
      <h2 className="head pb-1">An hour at each {word}</h2>
      <div className="overflow-x-auto" data-scrolls-across>
        <Figure
          name={`an hour at each ${word}`}
          says={`Worth an hour by tier, and what is met, at ${count} ${word}s`}
          width={width}
          height={HEAD + count * step + 4}
          isFluid={false}
          along="y"
          across={[0, width]}
          readings={data.depths.map((_, row) => ({
            at: y(row) + step / 2,
            says: says(row).join('\n'),
          }))}
          numbers={() => ({
            heads: [
              word,
              'worth an hour',
              ...tiers.map((tier) => tier.name),
              ...sources.map(named),
            ],
            rows: data.depths.map((d, row) => [
              d,
              whole[row] ?? 0,
              ...worth(row),
              ...sources.map((id) => data.met[id]?.[row] ?? 0),
            ]),
          })}
          onChoose={(row) => {
            setDepth(data.depths[row] ?? depth)
            show({ kind: 'meets', id: 'here' })
          }}
        >
          {sources.map((id, at) => (
            <text
              key={id}
              fontSize="9.5"
              fill="var(--color-muted)"
              transform={`translate(${lanes + at * LANE + 8},${HEAD - 5}) rotate(-52)`}
            >
              {short(named(id))}
            </text>
          ))}
          <text x={LEFT} y={HEAD - 6} fontSize="9.5" fill="var(--color-muted)">
            worth, by tier
          </text>
          {data.depths.map((d, row) => (
            <Row
              key={d}
              depth={d}
              isHere={d === depth}
              isNumbered={d === depth || row % Math.ceil(15 / step) === 0}
              y={y(row)}
              step={step}
              worth={worth(row).map((value) => (BARS * value) / most)}
              whole={whole[row] ?? 0}
              met={sources.map((id) => (data.met[id]?.[row] ?? 0) > 0)}
              lanes={lanes}
              marks={marks}
              missed={(missed.get(d) ?? []).length}
              odd={(odd.get(d) ?? []).length}
            />
          ))}
        </Figure>
      </div>
      <p className="flex flex-wrap gap-x-3 pt-1 text-small text-muted">
        {tiers.map((tier) => (
          <span key={tier.id} className="flex items-center gap-1">
            <span
              aria-hidden
              className="inline-block h-2 w-3"
              style={{ background: tier.colour }}
            />
            {tier.name}
          </span>
        ))}
        <span>
          <span aria-hidden className="text-bad">
            ●
          </span>{' '}
          a target missed
        </span>
        <span>
          <span aria-hidden className="text-waiting">
            ◤
          </span>{' '}
          something odd
        </span>
      </p>
    </section>
  )

  function named(id: string): string {
    return parts.source.get(id)?.name ?? id
  }
}

const short = (name: string) => (name.length > 15 ? `${name.slice(0, 14)}…` : name)

interface RowProps {
  depth: number
  isHere: boolean
  isNumbered: boolean
  y: number
  step: number
  /** How wide each tier's bar is. */
  worth: number[]
  whole: number
  met: boolean[]
  lanes: number
  marks: number
  missed: number
  odd: number
}

function Row(props: RowProps) {
  const { depth, isHere, isNumbered, y, step, worth, whole, met, lanes, marks, missed, odd } = props
  const tiers = [...useGame((state) => state.parts.tier).values()]
  const ends = worth.reduce<number[]>((sums, one) => [...sums, (sums.at(-1) ?? 0) + one], [])
  const end = LEFT + (ends.at(-1) ?? 0)
  const middle = y + step / 2 + 3.5
  return (
    <g>
      {isHere && (
        <rect x="0" y={y} width={marks + MARKS} height={step} fill="var(--color-gold-wash)" />
      )}
      {isNumbered && (
        <text
          x={LEFT - 6}
          y={middle}
          textAnchor="end"
          className="num"
          fontSize="10"
          fill={isHere ? 'var(--color-ink)' : 'var(--color-muted)'}
        >
          {depth}
        </text>
      )}
      {worth.map((width, at) => (
        <rect
          key={at}
          x={LEFT + (ends[at] ?? 0) - width}
          y={y + 1}
          width={width}
          height={Math.max(1, step - 2)}
          fill={tiers[at]?.colour}
        />
      ))}
      {isNumbered && whole > 0 && (
        <text x={end + 5} y={middle} className="num" fontSize="10" fill="var(--color-muted)">
          {figures(whole)}
        </text>
      )}
      {met.map(
        (is, at) =>
          is && (
            <rect
              key={at}
              x={lanes + at * LANE + 2}
              y={y}
              width={LANE - 5}
              height={step + 0.4}
              fill="var(--color-verdigris)"
              shapeRendering="crispEdges"
            />
          ),
      )}
      {missed > 0 && <circle cx={marks + 8} cy={y + step / 2} r="3" fill="var(--color-bad)" />}
      {odd > 0 && (
        <path d={`M${marks + 20},${y + step / 2 - 3}h7l-7,7z`} fill="var(--color-waiting)" />
      )}
    </g>
  )
}

/** Names of the targets that are missed, by depth. */
function useMissed(): Map<number, string[]> {
  const { data } = useTargets()
  const parts = useGame((state) => state.parts)
  const found = new Map<number, string[]>()
  for (const one of data?.targets ?? [])
    one.holds.forEach((holds, row) => {
      const depth = one.depths[row]
      const name = parts.target.get(one.id)?.name
      if (!holds && depth !== undefined && name)
        found.set(depth, [...(found.get(depth) ?? []), name])
    })
  return found
}

/** What is odd, by depth. */
function useOdd(): Map<number, string[]> {
  const { data } = useFindings()
  const found = new Map<number, string[]>()
  for (const { depths, message } of data?.findings ?? []) {
    if (!depths) continue
    for (let depth = depths[0]; depth <= depths[1]; depth++)
      found.set(depth, [...(found.get(depth) ?? []), message])
  }
  return found
}

// Which numbers move a target's figure at the depth in view, and which way; each is turned in place.
import { useState } from 'react'
import { useLevers } from '@/game/queries'
import type { Lever, Standing } from '@/api/types'
import { show, useGamePart } from '@/game/store'
import { rowAt } from '@/game/targets'
import { numberName } from '@/tuning/names'
import { signed } from '@/text/format'
import { Pending } from '@/ui/Pending'
import { Turn } from './Turn'

const MOST = 8

export function Levers({ id, standing }: { id: string; standing: Standing | undefined }) {
  const [held, setHeld] = useState<Lever[] | null>(null)
  const { parts, depth } = useGamePart('parts', 'depth')
  const of = parts.source.get(parts.target.get(id)?.source ?? '')?.name
  // What all of it is about need not be said in every row.
  const named = (lever: Lever) => numberName(parts, lever).replace(`${of}, `, '')
  const isRoute = Boolean(parts.target.get(id)?.route)
  const isTold = standing !== undefined && !standing.untold
  const isAsked = isTold && (isRoute ? standing.depths.length > 0 : rowAt(standing, depth) >= 0)
  const levers = useLevers(id, isAsked)
  const { data } = levers
  const word = parts.settings.words?.depth ?? 'depth'
  if (!isAsked) return null
  if (!data) return <Pending of={levers} what="what moves it" />
  if (!data.levers.length) return null
  // While one is turned all stay where they are.
  const shown = held ?? data.levers
  const longest = Math.abs(shown[0]?.elasticity ?? 1)
  return (
    <section aria-label="which number moves it" className="mb-3">
      <p className="head mb-0.5">What moves it {isRoute ? 'at the end' : `at ${word} ${depth}`}</p>
      <p className="mb-1 text-muted">by how many per cent, for one per cent of each number</p>
      {shown.slice(0, MOST).map((lever) => (
        <div
          key={lever.where}
          className="grid w-full grid-cols-[1fr_48px_44px_58px] items-center gap-x-1.5 py-px hover:bg-gold-wash max-[1100px]:grid-cols-[1fr_44px_58px]"
        >
          <button
            type="button"
            className="truncate text-left"
            title={numberName(parts, lever)}
            onClick={() => show({ kind: lever.kind, id: lever.id })}
          >
            {named(lever)}
          </button>
          <span className="max-[1100px]:hidden">
            <Arm share={lever.elasticity / longest} />
          </span>
          <span className="num text-right">{signed(lever.elasticity, 2)}</span>
          <Turn
            lever={lever}
            name={numberName(parts, lever)}
            onTurning={(isTurning) => setHeld(isTurning ? shown : null)}
          />
        </div>
      ))}
    </section>
  )
}

/** To the right what makes it more, to the left what makes it less. */
function Arm({ share }: { share: number }) {
  const width = 24 * Math.abs(share)
  return (
    <svg width="48" height="10" aria-hidden>
      <line x1="24" x2="24" y1="0" y2="10" stroke="var(--color-edge)" />
      <rect
        x={share < 0 ? 24 - width : 24}
        y="2"
        width={width}
        height="6"
        fill={share < 0 ? 'var(--color-copper)' : 'var(--color-verdigris)'}
      />
    </svg>
  )
}

// The targets that what is in view touches: what is wanted, and where it stands now.
import { useTargets } from '@/game/queries'
import type { Focus, SheetOdds, Standing, Target } from '@/api/types'
import { show, useGame, viewInSight, useGamePart } from '@/game/store'
import { rowAt, standingWords, told, touched } from '@/game/targets'
import { change } from '@/game/edit'
import { holdAsItStands, thingOf } from '@/sheets/target/edits'
import { Wanted } from '@/sheets/target/Sentence'
import { findNumbers } from '@/tuning/tuning'
import { Pending } from '@/ui/Pending'
import { TargetMark, standOf } from '@/ui/TargetMark'

export function TouchedTargets() {
  const { parts } = useGamePart('parts')
  const view = useGame(viewInSight)
  const targets = touched(parts, view)
  const standings = useTargets(targets.map((target) => target.id))
  const { data } = standings
  if (!targets.length) return null
  return (
    <section className="border-b border-hair px-4 py-2.5" aria-label="targets">
      <p className="mb-1 flex items-baseline justify-between">
        <span className="head">Targets</span>
        {data?.targets.some((one) => standOf(one) === 'missed') ? (
          <button
            type="button"
            className="label underline decoration-gold decoration-2 underline-offset-2 hover:text-ink"
            onClick={() => findNumbers(targets.map((target) => target.id))}
          >
            find numbers
          </button>
        ) : (
          <span className="label">wanted, and here</span>
        )}
      </p>
      {!data && <Pending of={standings} what="where they stand" />}
      {targets.map((target) => (
        <Row
          key={target.id}
          target={target}
          standing={data?.targets.find((one) => one.id === target.id)}
        />
      ))}
    </section>
  )
}

function Row({ target, standing }: { target: Target; standing: Standing | undefined }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const word = parts.settings.words?.depth ?? 'depth'
  const row = target.route ? 0 : rowAt(standing, depth)
  const asked = standing && row >= 0 && standing.holds.length > 0
  return (
    <div className="grid grid-cols-[13px_1fr_auto_62px] items-baseline gap-x-2 py-px text-note">
      <span className="self-center">
        <TargetMark stand={standOf(standing)} />
      </span>
      <button
        type="button"
        className="name truncate text-left hover:bg-gold-wash"
        title={`${target.name}: ${standing ? standingWords(target, standing, word) : ''}`}
        onClick={() => show({ kind: 'target', id: target.id })}
      >
        {target.name}
      </button>
      <Wanted
        signed
        target={target}
        onSave={(label, changed) => change('target', target.id, label, changed)}
      />
      <span
        className={`num text-right ${asked && !standing.holds[row] ? 'text-bad' : ''}`}
        data-testid={`target ${target.id}`}
      >
        {asked ? told(target, standing.figures[row], standing.never[row]) : '·'}
      </span>
    </div>
  )
}

/** Of an item or a tier that falls now and then, or of what a line gives: one in so many, to be kept as a
 * target. */
export function WantThis({ sheet, focus }: { sheet: SheetOdds; focus: Focus }) {
  const parts = useGame((state) => state.parts)
  const view = useGame(viewInSight)
  const { item, tier } = thingOf(parts, focus)
  const oneIn = (item ? sheet.items[item] : sheet.tiers[tier ?? ''])?.one_in ?? null
  if (!view || oneIn === null || oneIn <= 1) return null
  return (
    <button
      type="button"
      className="label underline decoration-hair underline-offset-2 hover:text-ink"
      onClick={() => void holdAsItStands(view, { figure: 'one-in', item, tier, wanted: oneIn })}
    >
      make it a target
    </button>
  )
}

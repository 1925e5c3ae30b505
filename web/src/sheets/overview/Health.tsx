// Targets met and missed, what is odd, what changed since a revision and what that did.
import { useState } from 'react'
import { useFindings, useTargets } from '@/game/queries'
import { show, useGame, type Sheet } from '@/game/store'
import { nameOfThing } from '@/game/parts'
import { Beside } from '@/sheets/history/Beside'
import { OddMark } from '@/sheets/Findings'
import { typedNumber } from '@/text/numbers'
import { EditText } from '@/ui/EditText'
import { Pending } from '@/ui/Pending'
import { standOf, TargetMark } from '@/ui/TargetMark'

const SHOWN = 6

export function Health() {
  return (
    <section aria-label="health">
      <h2 className="head pb-1">Health</h2>
      <Targets />
      <Odd />
      <Since />
    </section>
  )
}

function Targets() {
  const parts = useGame((state) => state.parts)
  const answer = useTargets()
  if (!parts.target.size)
    return <p className="text-muted">No target yet: what is wanted is written down nowhere.</p>
  if (!answer.data) return <Pending of={answer} what="where targets stand" />
  const { targets } = answer.data
  const missed = targets.filter((one) => standOf(one) === 'missed')
  return (
    <>
      <button
        type="button"
        className="text-left hover:bg-gold-wash"
        onClick={() => show({ kind: 'targets', id: 'all' })}
      >
        <b className="num">{targets.filter((one) => one.is_met).length}</b> of{' '}
        <b className="num">{targets.length}</b> targets are met
      </button>
      <ul className="text-note">
        {missed.slice(0, SHOWN).map((one) => (
          <li key={one.id} className="flex items-center gap-1.5">
            <TargetMark stand="missed" />
            <button
              type="button"
              className="name truncate text-left hover:bg-gold-wash"
              onClick={() => show({ kind: 'target', id: one.id })}
            >
              {parts.target.get(one.id)?.name}
            </button>
          </li>
        ))}
        {missed.length > SHOWN && <li className="label">{missed.length - SHOWN} more</li>}
      </ul>
    </>
  )
}

function Odd() {
  const parts = useGame((state) => state.parts)
  const answer = useFindings()
  const [all, setAll] = useState(false)
  if (!answer.data) return <Pending of={answer} what="what is odd" />
  const { findings } = answer.data
  if (!findings.length) return <p className="pt-1 text-muted">Nothing odd was found.</p>
  const go = (kind: string, id: string) =>
    show(kind === 'settings' ? { kind: 'meets', id: 'here' } : ({ kind, id } as Sheet))
  const shown = all ? findings : findings.slice(0, SHOWN)
  return (
    <>
      <p className="pt-1.5">
        <b className="num">{findings.length}</b>{' '}
        {findings.length === 1 ? 'thing is odd' : 'things are odd'}
      </p>
      <ul className="text-note">
        {shown.map((one) => (
          <li key={one.path + one.message} className="flex items-baseline gap-1.5">
            <OddMark />
            <button
              type="button"
              className="truncate text-left hover:bg-gold-wash"
              title={one.message}
              onClick={() => go(one.kind, one.id)}
            >
              <span className="name">{nameOfThing(parts, one.kind, one.id)}</span>{' '}
              <span className="text-muted">{one.message}</span>
            </button>
          </li>
        ))}
        {shown.length < findings.length && (
          <li>
            <button type="button" className="label hover:text-ink" onClick={() => setAll(true)}>
              {findings.length - shown.length} more
            </button>
          </li>
        )}
      </ul>
    </>
  )
}

/** What changed since a revision: asked for, since it is worked out of two whole games. */
function Since() {
  const revision = useGame((state) => state.revision)
  const [since, setSince] = useState<number | null>(null)
  if (revision < 2) return null
  return (
    <div className="pt-1.5 text-note">
      What changed since revision{' '}
      <EditText
        label="since which revision"
        text={String(since ?? 1)}
        className="choice num text-ink"
        inputClass="num w-14"
        onCommit={(text) => {
          const value = typedNumber(text)
          if (value === null || !Number.isInteger(value) || value < 1 || value >= revision)
            return { message: `a revision from 1 to ${revision - 1}` }
          setSince(value)
          return null
        }}
      />
      {since === null ? (
        <button type="button" className="label ml-2 hover:text-ink" onClick={() => setSince(1)}>
          show it
        </button>
      ) : (
        <Beside first={since} last={revision} />
      )}
    </div>
  )
}

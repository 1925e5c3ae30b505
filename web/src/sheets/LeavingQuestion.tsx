// Other things need what is about to go: which, and what to do about it.
import { useState } from 'react'
import type { UseOut } from '@/api/types'
import { curvesFor, replacedCurve } from '@/game/curves'
import { mentionWords } from '@/game/mentions'
import type { Kind } from '@/game/parts'
import { take } from '@/game/edit'
import { removeParts } from '@/game/sync'
import { useGame, type Failure } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { Question } from '@/ui/Menu'

export interface Leaving {
  kind: Kind
  /** All that is to go; some of it is in use. */
  gone: { id: string; name: string }[]
  uses: UseOut[]
}

export function LeavingQuestion({
  leaving,
  onDone,
}: {
  leaving: Leaving | null
  onDone: (gone: boolean) => void
}) {
  // Closed, it forgets what was chosen and what went wrong.
  return leaving && <Asked leaving={leaving} onDone={onDone} />
}

function Asked({ leaving, onDone }: { leaving: Leaving; onDone: (gone: boolean) => void }) {
  const parts = useGame((state) => state.parts)
  const [failure, setFailure] = useState<Failure | null>(null)
  const [instead, setInstead] = useState('')
  const { kind, gone, uses } = leaving
  const [first] = gone
  if (!first) return null
  const { id, name } = first
  const isOne = gone.length === 1
  const run = () => {
    const done = instead
      ? take(
          `${parts.curve.get(instead)?.name} instead of ${name}`,
          replacedCurve(parts, id, instead),
          parts,
        )
      : removeParts(kind, gone)
    void done.then((found) => {
      setFailure(found)
      if (!found) onDone(true)
    })
  }
  const canGo = kind !== 'tier' || !uses.some((use) => use.kind === 'item')
  const label = instead ? 'Put it there instead' : REMOVE[kind]
  return (
    <Question
      open
      title={isOne ? `${name} is in use` : `Of ${gone.length} ${kind}s some are in use`}
      onCancel={() => onDone(false)}
      choices={canGo ? [{ label: label ?? 'Remove it and what needs it', main: true, run }] : []}
    >
      <p>
        {canGo
          ? `${uses.length} ${uses.length === 1 ? 'place names' : 'places name'} ${isOne ? 'it' : 'them'}. One undo brings all of it back.`
          : `Items stand on ${isOne ? 'this tier' : 'these tiers'}. Move them to another tier first.`}
      </p>
      {kind === 'curve' && isOne && <Instead gone={id} value={instead} onChange={setInstead} />}
      <ul className="max-h-48 list-disc overflow-auto pl-5">
        {mentionWords(parts, uses).map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      {failure && <p className="text-bad">{failure.message}</p>}
    </Question>
  )
}

/** Where removing takes away only the mention. */
const REMOVE: Partial<Record<Kind, string>> = {
  curve: 'Remove it; they are not scaled',
  flag: 'Remove it; they need it no more',
}

function Instead({
  gone,
  value,
  onChange,
}: {
  gone: string
  value: string
  onChange: (curve: string) => void
}) {
  const parts = useGame((state) => state.parts)
  const others = curvesFor(parts, null).filter((curve) => curve.id !== gone)
  const options = Object.fromEntries(others.map((curve) => [curve.id, curve.name]))
  return (
    <p>
      From now on these are scaled by{' '}
      <Choice
        label="scaled by instead"
        value={value}
        options={{ '': 'no curve', ...options }}
        onChange={onChange}
      />
    </p>
  )
}

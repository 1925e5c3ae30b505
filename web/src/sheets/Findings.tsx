// What is odd about one table, source or target, where it is edited, each with its mend.
import { useFindings } from '@/game/queries'
import type { Finding } from '@/api/types'
import { take } from '@/game/edit'
import type { Parts } from '@/game/parts'
import { useState } from 'react'
import { Pending } from '@/ui/Pending'

const SHOWN = 3

export function findingsOf(found: Finding[] | undefined, kind: string, id: string): Finding[] {
  return (found ?? []).filter((one) => one.kind === kind && one.id === id)
}

/** One click, one step to undo. */
export function mend(finding: Finding, seen: Parts): void {
  if (finding.mend) void take(finding.mend.label, finding.mend.entries, seen)
}

export function Findings({
  kind,
  id,
}: {
  kind: 'table' | 'source' | 'target' | 'route' | 'set' | 'property' | 'place' | 'stall'
  id: string
}) {
  const answer = useFindings()
  const { data } = answer
  const [all, setAll] = useState(false)
  const found = findingsOf(data?.findings, kind, id)
  if (!data) return <Pending of={answer} what="what is odd here" />
  if (!found.length) return null
  const shown = all ? found : found.slice(0, SHOWN)
  return (
    <ul className="mb-1.5 space-y-0.5 text-small" aria-label="findings">
      {shown.map((one) => (
        <OneFinding key={one.path + one.message} finding={one} seen={data.seen} />
      ))}
      {found.length > shown.length && (
        <li>
          <button type="button" className="label hover:text-ink" onClick={() => setAll(true)}>
            {found.length - shown.length} more
          </button>
        </li>
      )}
    </ul>
  )
}

export function OneFinding({ finding, seen }: { finding: Finding; seen: Parts }) {
  return (
    <li className="flex items-baseline gap-2">
      <OddMark />
      <span>{finding.message}</span>
      {finding.mend && (
        <button
          type="button"
          className="shrink-0 underline decoration-gold decoration-2 underline-offset-2 hover:bg-gold-wash"
          onClick={() => mend(finding, seen)}
        >
          {finding.mend.label}
        </button>
      )}
    </li>
  )
}

/** The sign of something odd: a cracked corner, so that colour is not the only sign. */
export function OddMark() {
  return (
    <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden className="shrink-0 self-center">
      <path d="M0 0h9l-4 3.4 1 1.6-6 4z" fill="var(--color-waiting)" />
    </svg>
  )
}

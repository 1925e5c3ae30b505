// Someone else changed the same thing meanwhile: both versions, and a choice.
import type { Kind } from '@/game/parts'
import { settleClash } from '@/game/sync'
import { useGamePart } from '@/game/store'
import { Question } from '@/ui/Menu'

export function Clash() {
  const { conflict, parts } = useGamePart('conflict', 'parts')
  if (!conflict) return null
  const [first] = conflict.theirs
  const mine = conflict.mine.entries.find(
    (entry) => entry.kind === first?.kind && entry.id === first.id,
  )
  const name = parts[first?.kind as Kind]?.get(first?.id ?? '')?.name ?? first?.id ?? ''
  const rows = differences(mine?.body ?? null, first?.body ?? null)
  return (
    <Question
      open
      title={`${name} was changed elsewhere`}
      choices={[
        { label: 'Take theirs', run: () => settleClash(false) },
        { label: 'Keep mine', main: true, run: () => settleClash(true) },
      ]}
    >
      <p>
        Another page saved a change to it while you made yours. Nothing is lost: choose which one
        stays.
      </p>
      <table className="w-full text-[12px]">
        <thead>
          <tr className="text-left text-muted">
            <th className="font-normal">where</th>
            <th className="font-normal">yours</th>
            <th className="font-normal">theirs</th>
          </tr>
        </thead>
        <tbody className="num">
          {rows.slice(0, 12).map((row) => (
            <tr key={row.path} className="border-t border-hair align-top">
              <td className="pr-2">{row.path}</td>
              <td className="pr-2">{row.mine}</td>
              <td>{row.theirs}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Question>
  )
}

interface Difference {
  path: string
  mine: string
  theirs: string
}

/** The leaves at which two bodies differ. */
function differences(mine: unknown, theirs: unknown, path = ''): Difference[] {
  if (JSON.stringify(mine) === JSON.stringify(theirs)) return []
  const bothHold = isHolder(mine) && isHolder(theirs)
  if (!bothHold) return [{ path: path || 'all of it', mine: said(mine), theirs: said(theirs) }]
  const keys = new Set([...Object.keys(mine), ...Object.keys(theirs)])
  return [...keys].flatMap((key) => {
    const place = /^\d+$/.test(key) ? `${path}[${key}]` : path ? `${path}.${key}` : key
    return differences(mine[key], theirs[key], place)
  })
}

function isHolder(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null
}

function said(value: unknown): string {
  return value === undefined || value === null ? 'not there' : JSON.stringify(value)
}

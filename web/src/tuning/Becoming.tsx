// A number on a sheet while a proposal is open: what it would become, under what it is. While two revisions are
// looked at: what it is, under what it was.
import type { ReactNode } from 'react'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { useTuning } from './tuning'

type Numbered = 'table' | 'source' | 'item'

export function Becoming({
  kind,
  id,
  part,
  sort,
  written,
  children,
}: {
  kind: Numbered
  id: string
  /** The line or drop; none for a number of the table's own. */
  part: string
  sort: 'weight' | 'chance' | 'nothing' | 'copies' | 'value'
  written: (value: number) => ReactNode
  children: ReactNode
}) {
  const becomes = useTuning(({ open, found, left }) => {
    const mine = open
      ? found?.numbers.find(
          (one) => one.kind === kind && one.id === id && one.part === part && one.sort === sort,
        )
      : undefined
    return mine && !left.has(mine.where) ? mine.after : null
  })
  const was = useGame(({ beside }) =>
    beside ? numberIn(beside.parts, kind, id, part, sort) : null,
  )
  const is = useGame(({ beside, parts }) => (beside ? numberIn(parts, kind, id, part, sort) : null))
  if (was !== null && was !== is)
    return (
      <Two testId="was" small={was === undefined ? 'none' : written(was)}>
        {children}
      </Two>
    )
  if (becomes === null) return <>{children}</>
  return (
    <Two testId="becomes" small={children}>
      {written(becomes)}
    </Two>
  )
}

function Two({
  testId,
  small,
  children,
}: {
  testId: string
  small: ReactNode
  children: ReactNode
}) {
  return (
    <span
      className="inline-flex flex-col items-end align-middle leading-[1.05]"
      data-testid={testId}
    >
      <span className="text-micro text-muted">{small}</span>
      <b className="num border-b-2 border-gold text-ink">{children}</b>
    </span>
  )
}

/** The number there; undefined where there was no such line or thing. */
function numberIn(
  parts: Parts,
  kind: Numbered,
  id: string,
  part: string,
  sort: string,
): number | undefined {
  const whole = parts[kind].get(id)
  const inside: { id: string }[] =
    !whole || 'tier' in whole ? [] : 'lines' in whole ? whole.lines : whole.drops
  const found = part ? inside.find((one) => one.id === part) : whole
  return (found as Record<string, number | undefined> | undefined)?.[sort]
}

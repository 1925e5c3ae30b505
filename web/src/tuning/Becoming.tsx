// A number on a sheet while a proposal is open: what it would become, under what it is.
import type { ReactNode } from 'react'
import { useTuning } from './tuning'

export function Becoming({
  kind,
  id,
  part,
  sort,
  written,
  children,
}: {
  kind: 'table' | 'source'
  id: string
  /** The line or drop; none for a number of the table's own. */
  part: string
  sort: 'weight' | 'chance' | 'nothing' | 'copies'
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
  if (becomes === null) return <>{children}</>
  return (
    <span
      className="inline-flex flex-col items-end align-middle leading-[1.05]"
      data-testid="becomes"
    >
      <span className="text-micro text-muted">{children}</span>
      <b className="num border-b-2 border-gold text-ink">{written(becomes)}</b>
    </span>
  )
}

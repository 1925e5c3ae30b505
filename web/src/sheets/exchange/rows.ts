// A preview as rows: what is new, what changes and how, what was refused and why.
import type { SheetsRead } from '@/api/types'
import type { Parts } from '@/game/parts'

export interface PreviewRow {
  key: string
  what: 'new' | 'changed' | 'refused'
  /** The thing's name. */
  of: string
  where: string
  before: string
  after: string
  /** What is taken or left with it, as "kind/id". */
  entity: string | null
}

const PARENT: Record<string, string> = { line: 'table', drop: 'source' }

export function rowsOf(parts: Parts, read: SheetsRead): PreviewRow[] {
  const made = new Set(read.entries.map((entry) => `${entry.kind}/${entry.id}`))
  const entityOf = (kind: string, id: string) => {
    const key = `${PARENT[kind] ?? kind}/${id.split('/')[0] ?? ''}`
    return made.has(key) ? key : null
  }
  const named = (kind: string, id: string): string => {
    const of = PARENT[kind] ?? kind
    const first = id.split('/')[0] ?? ''
    const here = of in parts ? (parts[of as 'item'] as Map<string, { name: string }>) : null
    const entry = read.entries.find((one) => one.kind === of && one.id === first)
    const body = entry?.body as { name?: string } | null | undefined
    return here?.get(first)?.name ?? body?.name ?? first
  }
  const text = (cell: unknown) =>
    cell === null || cell === undefined ? '' : String(cell as string)
  return [
    ...read.refused.map((one, at) => ({
      key: `refused/${at}`,
      what: 'refused' as const,
      of: one.sheet,
      where: `row ${one.row}, ${one.column}`,
      before: '',
      after: one.why,
      entity: null,
    })),
    ...read.new.map((one) => ({
      key: `new/${one.kind}/${one.id}`,
      what: 'new' as const,
      of: one.kind in PARENT ? named(one.kind, one.id) : one.name,
      where: one.kind in PARENT ? `${one.kind} ${one.name}` : one.kind,
      before: '',
      after: '',
      entity: entityOf(one.kind, one.id),
    })),
    ...read.changed.map((one, at) => ({
      key: `changed/${at}`,
      what: 'changed' as const,
      of: named(one.kind, one.id),
      where: one.key.replaceAll('/', ', ').replaceAll('_', ' '),
      before: text(one.before),
      after: text(one.after),
      entity: entityOf(one.kind, one.id),
    })),
  ]
}

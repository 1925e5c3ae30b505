import type { EntryIn, Source } from '@/api/types'

export function sourceEntry(source: Source): EntryIn {
  return { kind: 'source', id: source.id, body: source as unknown as EntryIn['body'] }
}

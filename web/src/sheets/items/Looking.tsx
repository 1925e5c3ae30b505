// Which items of the catalogue are seen: by words, a tier, a tag.
import { useState } from 'react'
import type { Item } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { Choice } from '@/ui/Choice'
import type { Sorting } from '@/ui/grid/view'

export interface Looked {
  words: string
  tier: string
  tag: string
  sorting: Sorting | null
}

const ALL: Looked = { words: '', tier: '', tag: '', sorting: null }
// What was looked at last, by game: it stands so when one comes back from an item.
const last = new Map<string, Looked>()

export function useLooked() {
  const id = useGame((state) => state.id)
  const [looked, setLooked] = useState(() => last.get(id) ?? ALL)
  const look = (changed: Partial<Looked>) => {
    const next = { ...looked, ...changed }
    last.set(id, next)
    setLooked(next)
  }
  return { looked, look, filter: [looked.words.trim(), looked.tier, looked.tag].join('\t').trim() }
}

/** Whether an item is looked for: every word is in its name, its tier's or one of its tags. */
export function fits(parts: Pick<Parts, 'tier'>, { words, tier, tag }: Looked) {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  return (item: Item): boolean => {
    if (tier && item.tier !== tier) return false
    if (tag && !item.tags.includes(tag)) return false
    if (!wanted.length) return true
    const tierName = parts.tier.get(item.tier)?.name ?? ''
    const text = [item.name, tierName, ...item.tags].join(' ').toLowerCase()
    return wanted.every((word) => text.includes(word))
  }
}

export function Looking({
  looked,
  seen,
  onLook,
}: {
  looked: Looked
  seen: number
  onLook: (changed: Partial<Looked>) => void
}) {
  const parts = useGame((state) => state.parts)
  const items = [...parts.item.values()]
  const tags = [...new Set(items.flatMap((item) => item.tags))].sort()
  const isAll = !looked.words.trim() && !looked.tier && !looked.tag
  return (
    <p className="flex flex-wrap items-baseline gap-x-3 pb-1.5 pt-1 text-note text-muted">
      <input
        type="search"
        aria-label="find items"
        placeholder="name, tier or tag"
        className="field w-52"
        value={looked.words}
        onChange={(event) => onLook({ words: event.target.value })}
        onKeyDown={(event) => {
          event.stopPropagation()
          if (event.key === 'Escape') onLook({ words: '' })
        }}
      />
      <Choice
        label="of which tier"
        value={looked.tier}
        options={{
          '': 'of any tier',
          ...Object.fromEntries([...parts.tier.values()].map((one) => [one.id, one.name])),
        }}
        onChange={(tier) => onLook({ tier })}
      />
      {tags.length > 0 && (
        <Choice
          label="with which tag"
          value={looked.tag}
          options={{
            '': 'with any tag',
            ...Object.fromEntries(tags.map((tag) => [tag, `tagged ${tag}`])),
          }}
          onChange={(tag) => onLook({ tag })}
        />
      )}
      {(!isAll || looked.sorting) && (
        <>
          <span role="status">
            <b className="num text-ink">{seen}</b> of {items.length}
            {looked.sorting ? ', in another order' : ''}
          </span>
          <button type="button" className="label hover:text-ink" onClick={() => onLook(ALL)}>
            all, as they stand
          </button>
        </>
      )}
    </p>
  )
}

// What is painted: spots, or one of the covers, each with what it names.
import type { Cover, Place } from '@/api/types'
import { useGame } from '@/game/store'
import { itemByName } from '@/game/words'
import { EditText } from '@/ui/EditText'
import { change } from '@/game/edit'
import { newCover, withCover } from './edits'
import { inkOf } from './CoverLayer'
import type { Tool } from './Plan'

export function Covers({
  place,
  tool,
  onTool,
}: {
  place: Place
  tool: Tool
  onTool: (tool: Tool) => void
}) {
  const chosen = tool.kind === 'cover' ? place.covers.find((one) => one.id === tool.id) : undefined
  const add = () => {
    const cover = newCover(place)
    void change('place', place.id, 'a cover', { covers: [...place.covers, cover] })
    onTool({ kind: 'cover', id: cover.id })
  }
  return (
    <div className="pb-1.5 text-note">
      <p className="flex flex-wrap items-center gap-1.5" role="group" aria-label="what is painted">
        <span className="label">paint</span>
        <button
          type="button"
          aria-pressed={tool.kind === 'spots'}
          className={tool.kind === 'spots' ? 'plain-button bg-gold-wash' : 'plain-button'}
          onClick={() => onTool({ kind: 'spots' })}
        >
          spots
        </button>
        {place.covers.map((cover, at) => (
          <button
            key={cover.id}
            type="button"
            aria-pressed={chosen === cover}
            className={chosen === cover ? 'plain-button bg-gold-wash' : 'plain-button'}
            onClick={() => onTool({ kind: 'cover', id: cover.id })}
          >
            <span
              aria-hidden
              className="mr-1 inline-block h-2.5 w-2.5"
              style={{ background: inkOf(at), opacity: 0.6 }}
            />
            {cover.name || cover.id}
          </button>
        ))}
        <button type="button" className="label hover:text-ink" onClick={add}>
          + a cover
        </button>
        <span className="label ml-auto">drag; Alt erases</span>
      </p>
      {chosen && <Named place={place} cover={chosen} onGone={() => onTool({ kind: 'spots' })} />}
    </div>
  )
}

/** What may lie under a cover only: by tag, item or source. */
function Named({ place, cover, onGone }: { place: Place; cover: Cover; onGone: () => void }) {
  const parts = useGame((state) => state.parts)
  const save = (changed: Partial<Cover>) =>
    change('place', place.id, 'what a cover names', (now) => withCover(now, cover.id, changed))
  const names = [
    ...cover.tags.map((tag) => ({ key: 'tags' as const, id: tag, name: tag })),
    ...cover.items.map((id) => ({
      key: 'items' as const,
      id,
      name: parts.item.get(id)?.name ?? id,
    })),
    ...cover.sources.map((id) => ({
      key: 'sources' as const,
      id,
      name: parts.source.get(id)?.name ?? id,
    })),
  ]
  return (
    <p className="pt-1 text-muted">
      <EditText
        label="name of the cover"
        text={cover.name}
        className="choice text-ink"
        onCommit={(name) => save({ name })}
      />
      : only here may lie{' '}
      {names.map((one) => (
        <span key={`${one.key}/${one.id}`} className="mr-1 whitespace-nowrap text-ink">
          {one.name}
          <button
            type="button"
            aria-label={`take ${one.name} off the cover`}
            className="px-0.5 text-muted hover:text-bad"
            onClick={() =>
              void save({ [one.key]: cover[one.key].filter((other) => other !== one.id) })
            }
          >
            ×
          </button>
        </span>
      ))}
      <EditText
        label="a tag, an item or a source"
        text=""
        show="+ a tag, an item, a source"
        className="label hover:text-ink"
        inputClass="w-44"
        onCommit={(text) => {
          const typed = text.trim()
          if (!typed) return null
          const item = itemByName(parts, typed)
          const source = [...parts.source.values()].find(
            (one) => one.name.toLowerCase() === typed.toLowerCase(),
          )
          if (item) return save({ items: [...new Set([...cover.items, item.id])] })
          if (source) return save({ sources: [...new Set([...cover.sources, source.id])] })
          return save({ tags: [...new Set([...cover.tags, typed])] })
        }}
      />{' '}
      <button
        type="button"
        className="label hover:text-bad"
        onClick={() => {
          onGone()
          void change('place', place.id, 'a cover taken out', (now) => {
            now.covers = now.covers.filter((one) => one.id !== cover.id)
          })
        }}
      >
        take it out
      </button>
    </p>
  )
}

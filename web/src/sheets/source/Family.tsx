// Whom a source is like, what it states itself, and who follows it.
import type { ReactNode } from 'react'
import type { Drop, Source } from '@/api/types'
import { show, useGame } from '@/game/store'
import type { Answer, Changed } from '@/game/edit'
import { freshSource } from '@/game/fresh'
import { Menu } from '@/ui/Menu'

type Save = (label: string, changed: Changed<'source'>) => Answer

export function Family({ source, onSave }: { source: Source; onSave: Save }) {
  const sources = useGame((state) => state.parts.source)
  const elder = sources.get(source.like ?? '')
  const kin = [...sources.values()].filter((one) => one.like === source.id)
  return (
    <>
      <span>
        <Menu
          label="whom it is like"
          trigger={
            <button type="button" className={elder ? 'choice text-ink' : 'label hover:text-ink'}>
              {elder ? `like ${elder.name}` : 'like no other'}
            </button>
          }
          entries={[
            {
              label: 'Like no other: it keeps what it has',
              disabled: !elder,
              run: () => void onSave('like nobody', { like: null, without: [], stated: [] }),
            },
            null,
            ...[...sources.values()]
              .filter((one) => one.id !== source.id && !follows(sources, one, source.id))
              .map((one) => ({
                label: one.name,
                disabled: one.id === elder?.id,
                run: () => void onSave(`like ${one.name}`, likeOf(one)),
              })),
          ]}
        />
        {elder && (
          <button
            type="button"
            className="label ml-1 hover:text-ink"
            onClick={() => show({ kind: 'source', id: elder.id })}
          >
            open it
          </button>
        )}
      </span>
      {elder && <Own source={source} elder={elder} onSave={onSave} />}
      {kin.length > 0 && (
        <span>
          <span className="num text-ink">{kin.length}</span>{' '}
          {kin.length === 1 ? 'source is' : 'sources are'} like it:{' '}
          {kin.map((one) => (
            <button
              key={one.id}
              type="button"
              className="label mr-1 hover:text-ink"
              onClick={() => show({ kind: 'source', id: one.id })}
            >
              {one.name}
            </button>
          ))}
        </span>
      )}
    </>
  )
}

/** What it states itself; pressed, a key is given back to the family. */
function Own({ source, elder, onSave }: { source: Source; elder: Source; onSave: Save }) {
  const parts = useGame((state) => state.parts)
  const keys = (source.stated ?? []).filter((key) => !key.startsWith('drops/') && key !== 'name')
  const own = source.drops.filter((drop) => isOwnDrop(source, drop.id))
  const left = (source.without ?? []).flatMap(
    (id) => elder.drops.find((drop) => drop.id === id) ?? [],
  )
  const nameOf = (drop: Drop) => parts.table.get(drop.table)?.name ?? drop.table
  return (
    <span>
      its own:{' '}
      {keys.map((key) => (
        <button
          key={key}
          type="button"
          className="choice mr-1 text-ink"
          title={`as ${elder.name} has it`}
          aria-label={`give ${key} back to ${elder.name}`}
          onClick={() =>
            void onSave(`${key} as ${elder.name} has it`, {
              [key]: elder[key as keyof Source],
              stated: (source.stated ?? []).filter((one) => one !== key),
            })
          }
        >
          {key.replaceAll('_', ' ')} ×
        </button>
      ))}
      {own.map((drop) => (
        <span key={drop.id} className="mr-1 text-ink">
          {elder.drops.some((one) => one.id === drop.id)
            ? `how it drops ${nameOf(drop)}`
            : nameOf(drop)}
        </span>
      ))}
      {keys.length === 0 && own.length === 0 && 'nothing but its name'}
      {left.length > 0 && (
        <>
          ; it leaves out{' '}
          {left.map((drop) => (
            <button
              key={drop.id}
              type="button"
              className="choice mr-1 text-ink"
              title={`take it from ${elder.name} again`}
              aria-label={`take ${nameOf(drop)} from ${elder.name} again`}
              onClick={() =>
                void onSave(`${nameOf(drop)} as ${elder.name} has it`, (now: Source) => {
                  now.without = (now.without ?? []).filter((id) => id !== drop.id)
                  now.drops = [...now.drops, drop]
                })
              }
            >
              {nameOf(drop)} ×
            </button>
          ))}
        </>
      )}
    </span>
  )
}

/** What was not said yet is the family's: drops where it has none, and each fact that is as in a new source. */
const likeOf = (elder: Source) => (now: Source) => {
  const blank = freshSource(now.id, now.name)
  now.like = elder.id
  if (!now.drops.length) now.drops = elder.drops
  for (const key of FACTS)
    if (JSON.stringify(now[key]) === JSON.stringify(blank[key]))
      Object.assign(now, { [key]: elder[key] })
}

const FACTS = (Object.keys(freshSource('', '')) as (keyof Source)[]).filter(
  (key) => !['id', 'name', 'notes', 'drops', 'like', 'without', 'stated'].includes(key),
)

/** Whether a source is like another, by however many steps. */
function follows(sources: Map<string, Source>, one: Source, elder: string): boolean {
  const seen = new Set<string>()
  for (let at: Source | undefined = one; at?.like && !seen.has(at.id); at = sources.get(at.like)) {
    if (at.like === elder) return true
    seen.add(at.id)
  }
  return false
}

/** Facts that are the family's as long as the source says none of these keys itself: then they are muted. */
export function Facts({
  source,
  keys,
  children,
}: {
  source: Source
  keys: string[]
  children: ReactNode
}) {
  const elder = useGame((state) => state.parts.source.get(source.like ?? ''))
  const isOwn = !elder || keys.some((key) => (source.stated ?? []).includes(key))
  return isOwn ? (
    children
  ) : (
    <span className="of-family" title={`as ${elder.name} has it`}>
      {children}
    </span>
  )
}

/** The keys of a drop by which it says something itself. */
export const dropKeys = (drop: string, key: string) => [`drops/${drop}`, `drops/${drop}/${key}`]

/** Whether a drop says something of its own. */
export function isOwnDrop(source: Source, drop: string): boolean {
  if (!source.like) return true
  return (source.stated ?? []).some(
    (key) => key === `drops/${drop}` || key.startsWith(`drops/${drop}/`),
  )
}

/** The source with a drop as its family has it. */
export function withDropGivenBack(source: Source, elder: Source, drop: string): Partial<Source> {
  const theirs = elder.drops.find((one) => one.id === drop)
  if (!theirs) return {}
  return {
    drops: source.drops.map((one) => (one.id === drop ? theirs : one)),
    stated: (source.stated ?? []).filter((key) => !key.startsWith(`drops/${drop}/`)),
  }
}

// Whom a source is like, what it states itself, and who follows it.
import type { ReactNode } from 'react'
import type { Source } from '@/api/types'
import { show, useGame } from '@/game/store'
import type { Answer, Changed } from '@/game/edit'
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
              {elder ? `like ${elder.name}` : 'like nobody'}
            </button>
          }
          entries={[
            {
              label: 'Like nobody: it keeps what it has',
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
          {kin.length === 1 ? 'follows it' : 'follow it'}:{' '}
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
  const keys = (source.stated ?? []).filter((key) => !key.startsWith('drops/') && key !== 'name')
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
      {keys.length === 0 && 'nothing but its name'}
    </span>
  )
}

/** What has no drops yet has those of its family, and does not leave them out. */
const likeOf = (elder: Source) => (now: Source) => {
  now.like = elder.id
  if (!now.drops.length) now.drops = elder.drops
}

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

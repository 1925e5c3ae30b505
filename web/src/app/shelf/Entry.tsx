// One thing on the shelf: its mark, its name, a dot where it has findings, a menu.
import type { ReactNode } from 'react'
import { show, useGame, type Sheet } from '@/game/store'
import { Menu, type MenuEntry } from '@/ui/Menu'

export function Entry({
  sheet,
  name,
  mark,
  after,
  note,
  dim,
  menu,
  odd,
}: {
  sheet: NonNullable<Sheet>
  name: string
  mark: ReactNode
  after?: ReactNode
  note?: string
  dim?: boolean
  menu?: MenuEntry[]
  odd?: string[]
}) {
  const current = useGame((state) => state.sheet)
  const here = current?.kind === sheet.kind && current.id === sheet.id
  return (
    <div
      className={`group relative flex h-[25px] items-center pr-2 ${here ? 'bg-raised shadow-[inset_3px_0_0_var(--color-gold)]' : 'hover:bg-raised/70'}`}
    >
      <button
        type="button"
        aria-current={here ? 'page' : undefined}
        className={`flex min-w-0 flex-1 items-center gap-2 py-0.5 pl-3 text-left ${dim ? 'text-muted' : ''}`}
        onClick={() => show(sheet)}
      >
        {mark}
        <span className={`name truncate text-item ${here ? 'font-semibold' : ''}`}>{name}</span>
        {odd && odd.length > 0 && (
          <span
            title={odd.join('\n')}
            aria-label={`findings: ${odd.join('; ')}`}
            className="ml-auto h-1.5 w-1.5 shrink-0 rounded-full bg-waiting"
          />
        )}
        {note && <span className="label ml-auto">{note}</span>}
      </button>
      {after && <span className="group-hover:hidden">{after}</span>}
      {menu && (
        <span className="hidden group-focus-within:block group-hover:block">
          <Menu
            label={`what to do with ${name}`}
            align="end"
            trigger={
              <button type="button" className="px-1 leading-none text-muted">
                ⋯
              </button>
            }
            entries={menu}
          />
        </span>
      )}
    </div>
  )
}

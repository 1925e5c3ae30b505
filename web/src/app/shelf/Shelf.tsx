// What the game holds, in the order the work goes.
import { useDeferredValue, useRef, useState } from 'react'
import { useFindings } from '@/api/queries'
import { show, useGamePart } from '@/game/store'
import { findingsOf } from '@/sheets/Findings'
import { LeavingQuestion } from '@/sheets/LeavingQuestion'
import { useRemoval } from '@/sheets/useRemoval'
import { useWindow } from '@/ui/grid/useWindow'
import { Entry } from './Entry'
import { Section } from './Section'
import { SECTIONS, useCount, type Looking, type ShelfSection } from './sections'

export function Shelf() {
  const { parts, sheet, depth } = useGamePart('parts', 'sheet', 'depth')
  const [typed, setFilter] = useState('')
  const filter = useDeferredValue(typed) // what is typed is there at once, what it finds a little later
  const { leaving, remove, answered } = useRemoval((kind, id) => {
    if (sheet?.kind === kind && sheet.id === id) show(null)
  })
  const looking: Looking = {
    parts,
    depth,
    open: sheet?.id ?? '',
    filter,
    fits: (name) => name.toLowerCase().includes(filter.trim().toLowerCase()),
    remove: (kind, gone) => void remove(kind, gone),
  }
  return (
    <nav
      className="flex w-[220px] shrink-0 flex-col border-r border-hair max-[1100px]:w-[190px]"
      aria-label="shelf"
    >
      <div className="p-2.5">
        <input
          className="field w-full py-1"
          placeholder="Filter the shelf"
          aria-label="Filter the shelf"
          value={typed}
          onChange={(event) => setFilter(event.target.value)}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-auto pb-6" data-scrolls>
        {SECTIONS.map((section) => (
          <Shelved key={section.name} section={section} looking={looking} />
        ))}
      </div>
      <LeavingQuestion leaving={leaving} onDone={answered} />
    </nav>
  )
}

function Shelved({ section, looking }: { section: ShelfSection; looking: Looking }) {
  const { name, kinds, startsOpen = false, onAdd, fixed = [], entries, Asked, empty } = section
  const count = useCount(section)
  return (
    <Section
      name={name}
      kinds={kinds}
      count={count}
      filtered={looking.filter !== ''}
      startsOpen={startsOpen}
      {...(onAdd && { onAdd })}
    >
      {fixed.map((one) => (
        <Entry key={one.name} sheet={one.sheet} name={one.name} mark={one.mark} />
      ))}
      {entries && <Entries entries={entries} looking={looking} />}
      {Asked && <Asked looking={looking} />}
      {empty && count === 0 && <p className="label px-3 py-1">{empty}</p>}
    </Section>
  )
}

/** Made only while the section is unfolded. */
function Entries({
  entries,
  looking,
}: {
  entries: NonNullable<ShelfSection['entries']>
  looking: Looking
}) {
  const { data } = useFindings()
  const root = useRef<HTMLDivElement>(null)
  const found = entries(looking).filter((one) => looking.fits(one.name))
  const here = found.findIndex((one) => one.sheet.id === looking.open)
  const { drawn, height } = useWindow(root, found.length, here, IN_SHELF)
  return (
    <div ref={root} className="relative" style={{ height }}>
      {drawn.map(({ at, top }) => {
        const one = found[at]
        if (!one) return null
        const odd = findingsOf(data?.findings, one.sheet.kind, one.sheet.id)
        return (
          <div
            key={`${one.sheet.kind}/${one.sheet.id}`}
            className={top === null ? '' : 'absolute inset-x-0'}
            style={top === null ? undefined : { top }}
          >
            <Entry {...one} odd={odd.map((finding) => finding.message)} />
          </div>
        )
      })}
    </div>
  )
}

const IN_SHELF = { row: 25, above: 'section', overscan: 3 }

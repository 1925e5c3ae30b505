// What the game holds, in the order the work goes.
import { startTransition, useRef, useState } from 'react'
import { useFindings } from '@/game/queries'
import { show, useGamePart } from '@/game/store'
import { findingsOf } from '@/sheets/Findings'
import { LeavingQuestion } from '@/sheets/LeavingQuestion'
import { useRemoval } from '@/sheets/useRemoval'
import { useWindow } from '@/ui/grid/useWindow'
import { Entry } from './Entry'
import { Section } from './Section'
import { SECTIONS, useCount, type Looking, type ShelfEntry, type ShelfSection } from './sections'

export function Shelf() {
  const { parts, sheet, depth } = useGamePart('parts', 'sheet', 'depth')
  const [filter, setFilter] = useState('')
  const { leaving, remove, answered } = useRemoval((kind, id) => {
    if (sheet?.kind === kind && sheet.id === id) show(null)
  })
  const needle = filter.trim().toLowerCase()
  const looking: Looking = {
    parts,
    depth,
    open: sheet?.id ?? '',
    filter,
    fits: (name) => name.toLowerCase().includes(needle),
    remove: (kind, gone) => void remove(kind, gone),
  }
  return (
    <nav
      className="flex w-[220px] shrink-0 flex-col border-r border-hair max-[1100px]:w-[190px]"
      aria-label="shelf"
    >
      <FilterField onFilter={setFilter} />
      <div className="min-h-0 flex-1 overflow-auto pb-6" data-scrolls>
        {SECTIONS.map((section) => (
          <Shelved key={section.name} section={section} looking={looking} />
        ))}
      </div>
      <LeavingQuestion leaving={leaving} onDone={answered} />
    </nav>
  )
}

/** What is typed is there at once, what it finds a little later. */
function FilterField({ onFilter }: { onFilter: (filter: string) => void }) {
  const [typed, setTyped] = useState('')
  return (
    <div className="p-2.5">
      <input
        className="field w-full py-1"
        placeholder="Filter the shelf"
        aria-label="Filter the shelf"
        value={typed}
        onChange={(event) => {
          const text = event.target.value
          setTyped(text)
          startTransition(() => onFilter(text))
        }}
      />
    </div>
  )
}

function Shelved({ section, looking }: { section: ShelfSection; looking: Looking }) {
  const { name, kinds, startsOpen = false, onAdd, fixed = [], entries, useEntries, empty } = section
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
        <Entry key={one.name} sheet={one.sheet} name={one.name} {...one.look()} />
      ))}
      {entries && <Entries every={entries} looking={looking} />}
      {useEntries && <Asked useEntries={useEntries} looking={looking} />}
      {empty && count === 0 && <p className="label px-3 py-1">{empty}</p>}
    </Section>
  )
}

function Asked(props: { useEntries: NonNullable<ShelfSection['useEntries']>; looking: Looking }) {
  const entries = props.useEntries(props.looking)
  return <Entries every={() => entries} looking={props.looking} />
}

/** Made only while the section is unfolded. */
function Entries(props: { every: (looking: Looking) => ShelfEntry[]; looking: Looking }) {
  const { every, looking } = props
  const { data } = useFindings()
  const root = useRef<HTMLDivElement>(null)
  const found = every(looking).filter((one) => looking.fits(one.name))
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
            <Entry
              sheet={one.sheet}
              name={one.name}
              {...one.look()}
              odd={odd.map((finding) => finding.message)}
            />
          </div>
        )
      })}
    </div>
  )
}

const IN_SHELF = { row: 25, above: 'section', overscan: 3, atOnce: 30 }

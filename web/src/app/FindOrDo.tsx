// One box that finds any thing and does most things.
import { useMemo, useState, type ReactNode } from 'react'
import { create } from 'zustand'
import { findNumbers } from '@/tuning/tuning'
import { Command } from 'cmdk'
import { openGuide } from '@/ui/Explained'
import { GLOSSARY, type Term } from '@/game/glossary'
import type { Parts } from '@/game/parts'
import { redo, undo } from '@/game/sync'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { SHEET_KINDS, type SheetKind } from '@/game/kinds'
import { SHEETS } from '@/sheets/registry'
import { matching, type Named } from './finding'
import { duplicateGame, exportGame } from '@/game/games'

const TERMS = (Object.keys(GLOSSARY) as Term[]).map((term) => ({ term, name: term as string }))

interface Doing {
  name: string
  also?: string[]
  run: () => void
}

// Apart from the bench: to open it draws nothing else anew.
const useOpen = create(() => ({ isOpen: false }))
const setOpen = (isOpen: boolean) => useOpen.setState({ isOpen })
export const openFind = () => setOpen(true)

export function FindOrDo({ onRoll }: { onRoll: (count: number) => void }) {
  const { isOpen } = useOpen()
  return (
    <Command.Dialog
      open={isOpen}
      onOpenChange={setOpen}
      label="Find or do"
      shouldFilter={false}
      overlayClassName="fixed inset-0 z-40 bg-ink/20"
      contentClassName="overlay fixed left-1/2 top-16 w-[520px] -translate-x-1/2"
    >
      <Box onRoll={onRoll} />
    </Command.Dialog>
  )
}

const ROW = 'flex cursor-pointer items-center gap-2 px-3 py-1 data-[selected=true]:bg-gold-wash'

/** What is in it while it is open: nothing is searched before. */
function Box({ onRoll }: { onRoll: (count: number) => void }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const [text, setText] = useState('')
  const doings: Doing[] = [
    { name: 'Roll once', also: ['kill once', 'open once', 'try it'], run: () => onRoll(1) },
    { name: 'Roll 100', also: ['kill a hundred', 'roll many'], run: () => onRoll(100) },
    {
      name: 'Run a trial',
      also: ['new trial', 'simulate', 'simulation', 'play thousands of players'],
      run: () => show({ kind: 'trial', id: 'new' }),
    },
    { name: 'Undo', run: () => void undo() },
    { name: 'Do again', also: ['redo'], run: () => void redo() },
    { name: 'One deeper', run: () => setDepth(depth + 1) },
    { name: 'One shallower', run: () => setDepth(depth - 1) },
    {
      name: 'What is met here',
      also: ['band', 'spawns', 'encounters', 'visit'],
      run: () => show({ kind: 'meets', id: 'here' }),
    },
    {
      name: 'Find numbers that meet the targets',
      also: ['tune', 'solve', 'balance'],
      run: () => findNumbers(null),
    },
    { name: 'All targets', run: () => show({ kind: 'targets', id: 'all' }) },
    { name: 'All flags', also: ['quest', 'event'], run: () => show({ kind: 'flags', id: 'all' }) },
    ...SHEET_KINDS.flatMap((kind) => SHEETS[kind].doings ?? []),
    {
      name: 'All depths of this',
      also: ['odds by depth', 'along the depths'],
      run: () => useGame.setState({ along: true }),
    },
    { name: 'Export the game file', also: ['save as a file', 'download'], run: exportGame },
    {
      name: 'Duplicate the game',
      also: ['copy of the game', 'save as'],
      run: () => void duplicateGame(),
    },
  ]
  const things = useMemo(() => SHEET_KINDS.flatMap((kind) => searchedIn(kind, parts)), [parts])
  const groups = [
    ...things.map(({ kind, heading, list, markOf }) =>
      groupOf(heading, list, text, ({ id, name }) => ({
        key: `${kind} ${id}`,
        run: () => show({ kind, id }),
        shown: (
          <>
            {markOf(id)}
            <span className="name">{name}</span>
          </>
        ),
      })),
    ),
    groupOf('What a word means', TERMS, text, ({ term, name }) => ({
      key: `word ${term}`,
      run: () => openGuide(term),
      shown: (
        <>
          {name}
          <span className="label truncate">{GLOSSARY[term]}</span>
        </>
      ),
    })),
    groupOf('Do', doings, text, ({ name, run }) => ({ key: `do ${name}`, run, shown: name })),
  ]
    .filter((group) => group.entries.length)
    // What fits best stands first, so that Enter takes it.
    .sort((a, b) => a.best - b.best)
  const choose = (run: () => void) => () => {
    setOpen(false)
    run()
  }
  return (
    <>
      <Command.Input
        placeholder="Find a source, table or item, or do something"
        className="w-full border-b border-hair bg-transparent px-3 py-2.5 outline-none"
        value={text}
        onValueChange={setText}
      />
      <Command.List className="max-h-[50vh] overflow-auto py-1">
        <Command.Empty className="px-3 py-2 text-muted">Nothing of that name.</Command.Empty>
        {groups.map((group) => (
          <Command.Group
            key={group.heading}
            heading={<span className="label px-3">{group.heading}</span>}
          >
            {group.entries.map(({ key, run, shown }) => (
              <Command.Item key={key} value={key} className={ROW} onSelect={choose(run)}>
                {shown}
              </Command.Item>
            ))}
            {group.more > 0 && (
              <p className="label px-3 py-0.5">
                <span className="num">{group.more}</span> more; go on typing
              </p>
            )}
          </Command.Group>
        ))}
      </Command.List>
    </>
  )
}

const MOST = 12 // of each kind; fewer before anything is typed, so that it is there at once
const FIRST = 4

interface Entry {
  key: string
  run: () => void
  shown: ReactNode
}

interface Group {
  heading: string
  entries: Entry[]
  more: number
  best: number
}

function groupOf<One extends Named>(
  heading: string,
  list: One[],
  text: string,
  entry: (one: One) => Entry,
): Group {
  const { found, more, best } = matching(list, text, text.trim() ? MOST : FIRST)
  return { heading, entries: found.map(entry), more, best }
}

/** What can be found of a kind by its name. */
function searchedIn(kind: SheetKind, parts: Parts) {
  const { found } = SHEETS[kind]
  return found ? [{ kind, heading: found.heading, ...found.things(parts) }] : []
}

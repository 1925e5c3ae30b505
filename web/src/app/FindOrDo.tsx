// One box that finds any thing and does most things.
import { findNumbers } from '@/tuning/tuning'
import { Command } from 'cmdk'
import { openGuide } from '@/ui/Explained'
import { GLOSSARY, type Term } from '@/game/glossary'
import type { Parts } from '@/game/parts'
import { redo, undo } from '@/game/sync'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { SHEET_KINDS } from '@/sheets/kinds'
import { SHEETS } from '@/sheets/registry'
import { duplicateGame, exportGame } from './games'

const TERMS = Object.keys(GLOSSARY) as Term[]

interface Doing {
  name: string
  run: () => void
}

export function FindOrDo({
  open,
  onOpen,
  onRoll,
}: {
  open: boolean
  onOpen: (open: boolean) => void
  onRoll: (count: number) => void
}) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const doings: Doing[] = [
    { name: 'Roll once', run: () => onRoll(1) },
    { name: 'Roll 100', run: () => onRoll(100) },
    { name: 'Run a trial', run: () => show({ kind: 'trial', id: 'new' }) },
    { name: 'Undo', run: () => void undo() },
    { name: 'Do again', run: () => void redo() },
    { name: 'One deeper', run: () => setDepth(depth + 1) },
    { name: 'One shallower', run: () => setDepth(depth - 1) },
    { name: 'What is met here', run: () => show({ kind: 'meets', id: 'here' }) },
    { name: 'Find numbers that meet the targets', run: () => findNumbers(null) },
    { name: 'All targets', run: () => show({ kind: 'targets', id: 'all' }) },
    { name: 'All flags', run: () => show({ kind: 'flags', id: 'all' }) },
    ...SHEET_KINDS.flatMap((kind) => SHEETS[kind].doings ?? []),
    { name: 'All depths of this', run: () => useGame.setState({ along: true }) },
    { name: 'Export the game file', run: exportGame },
    { name: 'Duplicate the game', run: () => void duplicateGame() },
  ]
  const choose = (run: () => void) => () => {
    onOpen(false)
    run()
  }
  const row = 'flex cursor-pointer items-center gap-2 px-3 py-1 data-[selected=true]:bg-gold-wash'
  return (
    <Command.Dialog
      open={open}
      onOpenChange={onOpen}
      label="Find or do"
      overlayClassName="fixed inset-0 z-40 bg-ink/20"
      contentClassName="overlay fixed left-1/2 top-16 w-[520px] -translate-x-1/2"
    >
      <Command.Input
        placeholder="Find a source, table or item, or do something"
        className="w-full border-b border-hair bg-transparent px-3 py-2.5 outline-none"
      />
      <Command.List className="max-h-[50vh] overflow-auto py-1">
        <Command.Empty className="px-3 py-2 text-muted">Nothing of that name.</Command.Empty>
        {searched(parts).map(({ heading, kind, found }) => (
          <Command.Group key={kind} heading={<span className="label px-3">{heading}</span>}>
            {found.map(({ id, name, mark }) => (
              <Command.Item
                key={id}
                value={`${kind} ${name}`}
                className={row}
                onSelect={choose(() => show({ kind, id }))}
              >
                {mark}
                <span className="name">{name}</span>
              </Command.Item>
            ))}
          </Command.Group>
        ))}
        <Command.Group heading={<span className="label px-3">What a word means</span>}>
          {TERMS.map((term) => (
            <Command.Item
              key={term}
              value={`word ${term}`}
              className={row}
              onSelect={choose(() => openGuide(term))}
            >
              {term}
              <span className="label truncate">{GLOSSARY[term]}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={<span className="label px-3">Do</span>}>
          {doings.map((doing) => (
            <Command.Item
              key={doing.name}
              value={doing.name}
              className={row}
              onSelect={choose(doing.run)}
            >
              {doing.name}
            </Command.Item>
          ))}
        </Command.Group>
      </Command.List>
    </Command.Dialog>
  )
}

/** What can be found by its name, in the order people look for it. */
function searched(parts: Parts) {
  return SHEET_KINDS.flatMap((kind) => {
    const { found } = SHEETS[kind]
    return found ? [{ kind, heading: found.heading, found: found.things(parts) }] : []
  })
}

// One box that finds any thing and does most things.
import { Command } from 'cmdk'
import type { ReactNode } from 'react'
import type { Parts } from '@/game/parts'
import { redo, undo } from '@/game/sync'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { addTarget } from '@/sheets/target/edits'
import { AimMark, CurveMark, SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { duplicateGame, exportGame } from './games'
import { addCurve, addFlag, addItem, addSource, addTable } from './shelf/adding'

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
    { name: 'New source', run: () => void addSource() },
    { name: 'New table', run: () => void addTable() },
    { name: 'New item', run: () => void addItem() },
    { name: 'New curve', run: () => void addCurve() },
    { name: 'All targets', run: () => show({ kind: 'targets', id: 'all' }) },
    { name: 'New target', run: () => void addTarget() },
    { name: 'All flags', run: () => show({ kind: 'flags', id: 'all' }) },
    { name: 'New flag', run: () => void addFlag() },
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
        {findable(parts).map(({ heading, kind, found }) => (
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

interface Findable {
  heading: string
  kind: 'source' | 'table' | 'item' | 'tier' | 'curve' | 'target'
  found: { id: string; name: string; mark: ReactNode }[]
}

/** What can be found by its name, in the order people look for it. */
function findable(parts: Parts): Findable[] {
  const { from, to } = parts.settings.depth
  const listed = <T extends { id: string; name: string }>(
    of: Map<string, T>,
    mark: (one: T) => ReactNode,
  ) => [...of.values()].map((one) => ({ id: one.id, name: one.name, mark: mark(one) }))
  const markOf = (tier: string) => <TierMark tier={parts.tier.get(tier)} />
  return [
    {
      ...{ heading: 'Sources', kind: 'source' },
      found: listed(parts.source, (one) => <SourceMark kind={one.kind} />),
    },
    { heading: 'Tables', kind: 'table', found: listed(parts.table, () => <TableMark />) },
    { heading: 'Items', kind: 'item', found: listed(parts.item, (one) => markOf(one.tier)) },
    { heading: 'Tiers', kind: 'tier', found: listed(parts.tier, (one) => markOf(one.id)) },
    {
      ...{ heading: 'Curves', kind: 'curve' },
      found: listed(parts.curve, (one) => <CurveMark curve={one} scale={[from, to]} />),
    },
    { heading: 'Targets', kind: 'target', found: listed(parts.target, () => <AimMark />) },
  ]
}

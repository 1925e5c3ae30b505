// One box that finds any thing and does most things.
import { Command } from 'cmdk'
import { redo, undo } from '@/game/sync'
import { setDepth, show, useGame } from '@/game/store'
import { addTarget } from '@/sheets/target/edits'
import { AimMark, CurveMark, SourceMark, TableMark, TierMark } from '@/ui/Marks'
import { duplicateGame, exportGame } from './games'

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
  const { parts, depth } = useGame()
  const doings: Doing[] = [
    { name: 'Roll once', run: () => onRoll(1) },
    { name: 'Roll 100', run: () => onRoll(100) },
    { name: 'Run a trial', run: () => show({ kind: 'trial', id: 'new' }) },
    { name: 'Undo', run: () => void undo() },
    { name: 'Do again', run: () => void redo() },
    { name: 'One deeper', run: () => setDepth(depth + 1) },
    { name: 'One shallower', run: () => setDepth(depth - 1) },
    { name: 'What is met here', run: () => show({ kind: 'meets', id: 'here' }) },
    { name: 'All targets', run: () => show({ kind: 'targets', id: 'all' }) },
    { name: 'New target', run: () => void addTarget() },
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
        <Command.Group heading={<span className="label px-3">Sources</span>}>
          {[...parts.source.values()].map((source) => (
            <Command.Item
              key={source.id}
              value={`source ${source.name}`}
              className={row}
              onSelect={choose(() => show({ kind: 'source', id: source.id }))}
            >
              <SourceMark kind={source.kind} />
              <span className="name">{source.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={<span className="label px-3">Tables</span>}>
          {[...parts.table.values()].map((table) => (
            <Command.Item
              key={table.id}
              value={`table ${table.name}`}
              className={row}
              onSelect={choose(() => show({ kind: 'table', id: table.id }))}
            >
              <TableMark />
              <span className="name">{table.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={<span className="label px-3">Items</span>}>
          {[...parts.item.values()].map((item) => (
            <Command.Item
              key={item.id}
              value={`item ${item.name}`}
              className={row}
              onSelect={choose(() => show({ kind: 'item', id: item.id }))}
            >
              <TierMark tier={parts.tier.get(item.tier)} />
              <span className="name">{item.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={<span className="label px-3">Curves</span>}>
          {[...parts.curve.values()].map((curve) => (
            <Command.Item
              key={curve.id}
              value={`curve ${curve.name}`}
              className={row}
              onSelect={choose(() => show({ kind: 'curve', id: curve.id }))}
            >
              <CurveMark
                curve={curve}
                scale={[parts.settings.depth.from, parts.settings.depth.to]}
              />
              <span className="name">{curve.name}</span>
            </Command.Item>
          ))}
        </Command.Group>
        <Command.Group heading={<span className="label px-3">Targets</span>}>
          {[...parts.target.values()].map((target) => (
            <Command.Item
              key={target.id}
              value={`target ${target.name}`}
              className={row}
              onSelect={choose(() => show({ kind: 'target', id: target.id }))}
            >
              <AimMark />
              <span className="name">{target.name}</span>
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

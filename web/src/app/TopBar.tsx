import { useState } from 'react'
import { useTrials } from '@/game/queries'
import { show, useGame, useGamePart } from '@/game/store'
import { redo, undo } from '@/game/sync'
import { backToToday } from '@/game/sync/past'
import { Chevron } from '@/ui/Fold'
import { Menu } from '@/ui/Menu'
import { whole } from '@/text/format'
import { People } from './People'
import { GameDialogs, type DialogName } from './GameDialogs'
import { deleteGame, duplicateGame, exportGame } from '@/game/games'

export function TopBar({ onFind }: { onFind: () => void }) {
  const { parts, steps, past } = useGamePart('parts', 'steps', 'past')
  const [dialog, setDialog] = useState<DialogName | null>(null)
  return (
    <header className="flex h-10 shrink-0 items-center gap-4 border-b border-hair bg-raised px-4">
      <span className="flex min-w-0 items-center">
        <button
          type="button"
          className="name truncate text-sub hover:bg-gold-wash"
          title="overview: the whole game on one sheet"
          onClick={() => show({ kind: 'overview', id: 'all' })}
        >
          {parts.settings.name}
        </button>
        <GameMenu onDialog={setDialog} />
      </span>
      <button
        type="button"
        className="field ml-4 flex w-72 items-center justify-between py-1 text-muted max-[1100px]:w-44"
        onClick={onFind}
      >
        Find or do <kbd className="num text-tiny">Ctrl K</kbd>
      </button>
      <span className="ml-auto flex items-center gap-1">
        <IconButton
          label={steps.undo ? `Undo: ${steps.undo}` : 'Nothing to undo'}
          path="M5 3L2 6l3 3 M2 6h6.5a3 3 0 010 6H5"
          disabled={!steps.undo}
          onClick={() => void undo()}
        />
        <IconButton
          label={steps.redo ? `Do again: ${steps.redo}` : 'Nothing to do again'}
          path="M9 3l3 3-3 3 M12 6H5.5a3 3 0 000 6H9"
          disabled={!steps.redo}
          onClick={() => void redo()}
        />
      </span>
      <People />
      {past === null ? <Saved /> : <AsItWas revision={past} />}
      <Running />
      <GameDialogs dialog={dialog} onClose={() => setDialog(null)} />
    </header>
  )
}

function GameMenu({ onDialog }: { onDialog: (dialog: DialogName) => void }) {
  return (
    <Menu
      label="game"
      trigger={
        <button type="button" className="p-1.5">
          <Chevron open />
        </button>
      }
      entries={[
        { label: 'Overview', run: () => show({ kind: 'overview', id: 'all' }) },
        null,
        { label: 'Open another game', run: () => onDialog('open') },
        { label: 'New game', run: () => onDialog('new') },
        { label: 'Rename', run: () => onDialog('rename') },
        { label: 'Duplicate', run: () => void duplicateGame() },
        null,
        { label: 'Import a game file', run: () => onDialog('import') },
        { label: 'Export the game file', run: exportGame },
        { label: 'Spreadsheets, code, odds', run: () => show({ kind: 'exchange', id: 'all' }) },
        { label: 'A log of the running game', run: () => show({ kind: 'log', id: 'all' }) },
        { label: 'History', run: () => show({ kind: 'history', id: 'all' }) },
        { label: 'Findings', run: () => onDialog('findings') },
        null,
        { label: 'Delete this game', bad: true, run: () => void deleteGame() },
      ]}
    />
  )
}

function IconButton({
  label,
  path,
  disabled,
  onClick,
}: {
  label: string
  path: string
  disabled: boolean
  onClick: () => void
}) {
  return (
    <button
      type="button"
      title={label}
      aria-label={label}
      disabled={disabled}
      onClick={onClick}
      className="p-1.5"
    >
      <svg width="15" height="15" viewBox="0 0 14 14" aria-hidden>
        <path d={path} fill="none" stroke="currentColor" strokeWidth="1.4" />
      </svg>
    </button>
  )
}

/** That it is not today's game that is looked at, and the two ways on. */
function AsItWas({ revision }: { revision: number }) {
  const beside = useGame((state) => state.beside)
  return (
    <span role="status" className="flex items-center gap-2 text-note">
      <span className="text-waiting">
        As it was at revision <b className="num">{revision}</b>, to be read
        {beside && (
          <>
            ; small above a number what it was at <b className="num">{beside.revision}</b>
          </>
        )}
      </span>
      <button type="button" className="plain-button" onClick={() => void backToToday()}>
        Back to today
      </button>
    </span>
  )
}

/** What is saved, said plainly. */
function Saved() {
  const { pending, offline, revision } = useGamePart('pending', 'offline', 'revision')
  if (offline)
    return (
      <span role="status" className="text-bad">
        Server out of reach; {pending.length} {pending.length === 1 ? 'edit' : 'edits'} kept here,
        trying again
      </span>
    )
  return (
    <span role="status" className="text-note text-muted">
      {pending.length ? 'Saving' : 'All saved, revision'}{' '}
      <b className="num text-ink">{pending.length ? '' : revision}</b>
    </span>
  )
}

function Running() {
  const { data: trials = [] } = useTrials()
  const running = trials.filter((trial) => trial.status === 'running' || trial.status === 'waiting')
  const [first] = running
  if (!first)
    return <span className="text-note text-muted max-[1100px]:hidden">No trial running</span>
  const share = first.done / first.spec.players
  return (
    <button
      type="button"
      className="flex items-center gap-2 text-note"
      onClick={() => show({ kind: 'trial', id: first.id })}
    >
      {first.name}
      <span className="h-1.5 w-20 bg-sunk">
        <span className="block h-full bg-gold" style={{ width: `${100 * share}%` }} />
      </span>
      <span className="num text-muted">{whole(100 * share)}&#8239;%</span>
    </button>
  )
}

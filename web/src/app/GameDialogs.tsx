// Open, new, rename, import.
import { useFindings } from '@/game/queries'
import { changeSettings } from '@/game/edit'
import { nameOfThing } from '@/game/parts'
import { mend } from '@/sheets/Findings'
import { show, useGame, type Sheet } from '@/game/store'
import { Sheetlet } from '@/ui/Menu'
import { Pending } from '@/ui/Pending'
import { GameList, ImportForm, NameForm } from './GameForms'
import { makeGame } from '@/game/games'

export type DialogName = 'open' | 'new' | 'rename' | 'import' | 'findings'

export function GameDialogs({
  dialog,
  onClose,
}: {
  dialog: DialogName | null
  onClose: () => void
}) {
  const parts = useGame((state) => state.parts)
  const rename = async (name: string) => {
    const failure = await changeSettings(`renamed to ${name}`, { name })
    if (failure) throw new Error(failure.message)
  }
  return (
    <>
      <Sheetlet open={dialog === 'open'} title="Open a game" onClose={onClose}>
        <GameList onOpen={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'new'} title="A new game" onClose={onClose}>
        <NameForm label="Name of the game" verb="Make it" onName={makeGame} onDone={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'rename'} title="Rename the game" onClose={onClose}>
        <NameForm
          label="Name of the game"
          verb="Rename"
          initial={parts?.settings.name}
          onName={rename}
          onDone={onClose}
        />
      </Sheetlet>
      <Sheetlet open={dialog === 'import'} title="Import a game file" onClose={onClose}>
        <ImportForm onDone={onClose} />
      </Sheetlet>
      <Sheetlet open={dialog === 'findings'} title="Findings" onClose={onClose} wide>
        <Findings onDone={onClose} />
      </Sheetlet>
    </>
  )
}

/** What is odd about the game; each leads to its place. */
function Findings({ onDone }: { onDone: () => void }) {
  const answer = useFindings()
  const { data } = answer
  const parts = useGame((state) => state.parts)
  if (!data) return <Pending of={answer} what="what is odd" />
  if (!data.findings.length) return <p className="text-muted">Nothing odd was found.</p>
  const go = (kind: string, id: string) => {
    // What is odd about the game's settings is about its bands.
    show(kind === 'settings' ? { kind: 'meets', id: 'here' } : ({ kind, id } as Sheet))
    onDone()
  }
  return (
    <ul className="divide-y divide-hair">
      {data.findings.map((one) => (
        <li
          key={one.path + one.message}
          className="grid grid-cols-[150px_1fr_auto] items-baseline gap-3 py-1"
        >
          <button
            type="button"
            className="name text-left underline decoration-hair underline-offset-2 hover:bg-gold-wash"
            onClick={() => go(one.kind, one.id)}
          >
            {nameOfThing(parts, one.kind, one.id)}
          </button>
          <span>{one.message}</span>
          {one.mend && (
            <button type="button" className="plain-button" onClick={() => mend(one, data.seen)}>
              {one.mend.label}
            </button>
          )}
        </li>
      ))}
    </ul>
  )
}

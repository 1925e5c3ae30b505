// No game is open: open one, make one, bring one in.
import { useGames } from '@/game/queries'
import { GoldDie } from '@/ui/Marks'
import { GameList, ImportForm, NameForm } from './GameForms'
import { demoAgain, makeFromSheet, makeGame } from '@/game/games'
import { useTicks } from '@/game/ticks'

export function Welcome() {
  const { error } = useGames()
  const nothing = () => undefined
  return (
    <main className="mx-auto grid h-full max-w-[1040px] content-start gap-x-16 overflow-auto px-6 py-14 min-[900px]:grid-cols-[1fr_360px]">
      <div>
        <p className="flex items-center gap-3">
          <GoldDie size={38} />
          <span className="name text-title">Gold Dice</span>
        </p>
        <p className="mt-2 text-muted">
          Loot as players will feel it: author tables, see what every number means, roll, simulate.
        </p>
        {error && (
          <p className="mt-4 text-bad">
            The server cannot be reached. Start it with “make start”; this page tries again.
          </p>
        )}
        <h2 className="head mb-1 mt-8">Open a game</h2>
        <GameList onOpen={nothing} />
        <h2 className="head mb-2 mt-8">Make a new one</h2>
        <NameForm label="Name of the game" verb="Make it" onName={makeGame} onDone={nothing} />
        <h2 className="head mb-2 mt-8">From a spreadsheet</h2>
        <p className="mb-2 text-muted">
          Make a game, then bring sheets of items and drops into it; what they would do is shown
          first.
        </p>
        <NameForm
          label="Name of a game from a spreadsheet"
          verb="Make it"
          onName={makeFromSheet}
          onDone={nothing}
        />
        <h2 className="head mb-2 mt-8">Bring one in</h2>
        <ImportForm onDone={nothing} />
        <p className="mt-8">
          <button type="button" className="plain-button" onClick={() => void demoAgain()}>
            The demo game again, as it came
          </button>
        </p>
      </div>
      <FirstMinutes />
    </main>
  )
}

const STEPS: [string, string][] = [
  ['Choose a source', 'Lantern Eel, on the shelf. The strip is all that one roll can do.'],
  [
    'Change a weight',
    'Click it and type: strip, sentence and dots follow; the grey outline is how it was.',
  ],
  [
    'Type the answer instead',
    '“1 in 250” under kills for one: the weight that makes it true is found.',
  ],
  ['Roll', 'R once, Shift R a hundred times. Choose one to read how it came about.'],
  ['Go deeper', '[ and ], or drag the weight at the left: everything is at that depth now.'],
  ['Say what you want', 'All targets: where they hold, where they are missed, with every edit.'],
  ['Let ten thousand play', '+ beside Trials; then replay the unluckiest.'],
  ['Take it back', 'Ctrl Z undoes any of it, tomorrow too.'],
]

/** What to try first, for who sees it for the first time. */
function FirstMinutes() {
  const ticked = useTicks()
  return (
    <section
      aria-label="the first five minutes"
      className="mt-10 border-l border-hair pl-8 min-[900px]:mt-2"
    >
      <h2 className="name mb-3 text-heading">The first five minutes</h2>
      <ol className="space-y-2.5">
        {STEPS.map(([what, how], at) => (
          <li key={what} className="grid grid-cols-[22px_1fr]">
            {ticked.includes(at) ? (
              <span role="img" aria-label="done" className="text-gold-ink">
                ✓
              </span>
            ) : (
              <span className="num text-muted">{at + 1}</span>
            )}
            <span>
              <b className="font-semibold">{what}</b>
              <span className="block text-muted">{how}</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  )
}

// No game is open: open one, make one, bring one in.
import { useGames } from '@/api/queries'
import { GoldDie } from '@/ui/Marks'
import { GameList, ImportForm, NameForm } from './GameDialogs'
import { makeGame } from './games'

export function Welcome() {
  const { error } = useGames()
  const nothing = () => undefined
  return (
    <main className="mx-auto h-full max-w-[560px] overflow-auto px-6 py-16">
      <p className="flex items-center gap-3">
        <GoldDie size={38} />
        <span className="name text-[34px]">Gold Dice</span>
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
      <h2 className="head mb-2 mt-8">Bring one in</h2>
      <ImportForm onDone={nothing} />
    </main>
  )
}

// Everything that a curve scales; each leads to its place.
import { show, useGame } from '@/game/store'
import { usersOf } from './places'

export function Users({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const users = usersOf(parts, id)
  if (!users.length)
    return (
      <p className="text-muted">
        Nothing is scaled by it yet. Choose it on a tier, line, drop or quantity.
      </p>
    )
  return (
    <div>
      <p className="head mb-0.5">Scales</p>
      {users.map((user) => (
        <button
          key={user.key}
          type="button"
          className="flex w-full items-baseline gap-2 text-left hover:bg-gold-wash"
          onClick={() => show(user.sheet)}
        >
          <span className="name truncate">{user.name}</span>
          <span className="label ml-auto shrink-0">{user.what}</span>
        </button>
      ))}
    </div>
  )
}

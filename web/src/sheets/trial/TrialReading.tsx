// What a trial says of players, in words; and three of them to replay.
import { useTrial } from '@/game/queries'
import type { TrialOut, TrialPlayer } from '@/api/types'
import { useGame } from '@/game/store'
import { figures, whole } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { aboutTrial, replay } from './about'
import { TrialForm } from './TrialForm'

export function TrialReading({ id }: { id: string }) {
  const { data: trial } = useTrial(id)
  const parts = useGame((state) => state.parts)
  const result = trial?.result
  if (!trial) return <p className="p-4 text-muted">What players end with will be read here.</p>
  // Of what is gone no other can be run.
  const another = aboutTrial(parts, trial.spec).sheet && <TrialForm key={id} like={trial.spec} />
  if (!result) return another
  const player = parts.settings.words?.player ?? 'player'
  const { value } = result
  return (
    <>
      <section className="border-b border-hair p-4">
        <p className="text-lead leading-6">
          A {player} ends with <b className="num">{whole(value.mean)}</b> {parts.settings.currency}{' '}
          on average; half end above <b className="num">{whole(value.p50)}</b>, one in twenty below{' '}
          <b className="num">{whole(value.p05)}</b>, one in twenty above{' '}
          <b className="num">{whole(value.p95)}</b>.
        </p>
        <p className="mt-1 text-small text-muted">
          Expected {figures(value.expected_mean, 5)}, z{' '}
          {value.z === null ? 'none' : value.z.toFixed(2)}; sd {figures(value.sd, 4)}, expected{' '}
          {figures(value.expected_sd, 4)}.
        </p>
      </section>
      <section className="border-b border-hair p-4">
        <p className="head mb-1">Three {player}s</p>
        {(['luckiest', 'median', 'unluckiest'] as const).map((name) => {
          const one = result.players[name]
          return one && <PlayerRow key={name} name={name} one={one} trial={trial} />
        })}
      </section>
      {another && <section className="border-b border-hair">{another}</section>}
      <section className="p-4 text-small text-muted">
        <p>
          <span className="num">{whole(result.events)}</span> events. Digest{' '}
          <span className="num">{result.digest.slice(0, 12)}</span>: the same seed gives the same,
          on any number of cores.
        </p>
      </section>
    </>
  )
}

function PlayerRow({ name, one, trial }: { name: string; one: TrialPlayer; trial: TrialOut }) {
  const parts = useGame((state) => state.parts)
  const ladder = [...parts.tier.values()].reverse()
  const count = (tier: string) =>
    Object.entries(one.items).reduce(
      (sum, [id, units]) => sum + (parts.item.get(id)?.tier === tier ? units : 0),
      0,
    )
  return (
    <div className="grid grid-cols-[76px_64px_1fr_auto] items-center gap-2 py-0.5 text-note">
      <span>{name}</span>
      <b className="num text-right">{whole(one.value)}</b>
      <span className="flex gap-2.5">
        {ladder.slice(0, 3).map((tier) => (
          <span key={tier.id} className="inline-flex items-center gap-1">
            <TierMark tier={tier} size={11} />
            <span className="num">{count(tier.id)}</span>
          </span>
        ))}
      </span>
      <button type="button" className="choice" onClick={() => replay(trial.id, one.player)}>
        replay
      </button>
    </div>
  )
}

// A trial: set up, watch, and look at what came of it beside what was expected.
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { api } from '@/api/client'
import { useTrial, useTrials } from '@/api/queries'
import type { TrialItem, TrialOut, TrialPlayer, TrialResult } from '@/api/types'
import { setDepth, show, useGame, useGamePart } from '@/game/store'
import { eventWords } from '@/game/words'
import { Bars, ZMark } from '@/plots/Bars'
import { FanPlot } from '@/plots/Fan'
import { EditText } from '@/ui/EditText'
import { figures, percent, whole } from '@/ui/format'
import { TierMark } from '@/ui/Marks'
import { TrialForm } from './TrialForm'
import { Explained } from '@/ui/Explained'

export function TrialSheet({ id }: { id: string }) {
  const { data: trial } = useTrial(id)
  if (id === 'new') return <TrialForm />
  if (!trial) return null
  return (
    <div className="px-5 pb-10 pt-3">
      <Head trial={trial} />
      {trial.result ? (
        <Outcome trial={trial} result={trial.result} />
      ) : (
        <Progress id={id} trial={trial} />
      )}
    </div>
  )
}

function Head({ trial }: { trial: TrialOut }) {
  const { parts, id } = useGamePart('parts', 'id')
  const client = useQueryClient()
  const { view, players, events, depth, seed } = trial.spec
  const thing = view.kind === 'source' ? parts.source.get(view.id) : parts.table.get(view.id)
  const words = eventWords(view.kind === 'source' ? parts.source.get(view.id) : undefined)
  const renew = () => client.invalidateQueries({ queryKey: ['trials', id] })
  return (
    <header className="border-b border-hair pb-2">
      <EditText
        label="name of the trial"
        text={trial.name}
        className="name text-left text-[32px] leading-10"
        inputClass="name text-[28px] w-96"
        onCommit={async (name) => {
          await api.renameTrial(id, trial.id, name)
          await Promise.all([
            renew(),
            client.invalidateQueries({ queryKey: ['trial', id, trial.id] }),
          ])
          return null
        }}
      />
      <div className="flex flex-wrap items-baseline gap-x-4 text-[12.5px] text-muted">
        <span>
          <b className="num text-ink">{whole(players)}</b>{' '}
          {parts.settings.words?.player ?? 'player'}s
        </span>
        <span>
          <b className="num text-ink">{whole(events)}</b> {words.many} each of{' '}
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: view.kind, id: view.id })}
          >
            {thing?.name ?? view.id}
          </button>{' '}
          at {parts.settings.words?.depth ?? 'depth'} <b className="num text-ink">{depth}</b>
        </span>
        <span>
          seed <b className="num text-ink">{seed}</b>
        </span>
        <span>revision {trial.revision}</span>
        <span className="ml-auto flex gap-3">
          {trial.seconds !== null && (
            <span>
              simulated in <span className="num">{figures(trial.seconds, 2)}</span> s
            </span>
          )}
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => show({ kind: 'trial', id: 'new' })}
          >
            run another
          </button>
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() =>
              void api
                .deleteTrial(id, trial.id)
                .then(renew)
                .then(() => show({ kind: view.kind, id: view.id }))
            }
          >
            delete
          </button>
        </span>
      </div>
    </header>
  )
}

function Progress({ id, trial }: { id: string; trial: TrialOut }) {
  const game = useGame((state) => state.id)
  const { data: trials = [] } = useTrials()
  const now = trials.find((one) => one.id === id) ?? trial
  if (now.status !== 'running' && now.status !== 'waiting')
    return (
      <p className="py-6 text-muted">
        This trial was {now.status}
        {now.error ? `: ${now.error}` : ''}.
      </p>
    )
  const share = now.done / now.spec.players
  return (
    <div className="max-w-[520px] py-8" role="status">
      <p className="mb-2">
        {now.status === 'waiting'
          ? 'Waiting for its turn'
          : `${whole(now.done)} of ${whole(now.spec.players)} played`}
      </p>
      <div
        className="h-2 bg-sunk"
        role="progressbar"
        aria-valuenow={Math.round(100 * share)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-label="progress of the trial"
      >
        <div className="h-full bg-gold" style={{ width: `${100 * share}%` }} />
      </div>
      <button
        type="button"
        className="plain-button mt-4"
        onClick={() =>
          void api.cancelTrial(game, id).catch((error: Error) => toast.error(error.message))
        }
      >
        Cancel
      </button>
    </div>
  )
}

function Outcome({ trial, result }: { trial: TrialOut; result: TrialResult }) {
  const parts = useGame((state) => state.parts)
  const words = eventWords(
    trial.spec.view.kind === 'source' ? parts.source.get(trial.spec.view.id) : undefined,
  )
  const player = parts.settings.words?.player ?? 'player'
  return (
    <>
      <section
        className="grid grid-cols-[1fr_190px] gap-4 border-b border-hair py-3"
        aria-label="value per player"
      >
        <div>
          <p className="mb-1 flex justify-between">
            <span className="head">
              {parts.settings.currency} a {player}, ahead of what was expected
            </span>
            <span className="label">
              bands 5–95 and 25–75&#8239;%; lines: luckiest, median, unluckiest
            </span>
          </p>
          <FanPlot trial={trial} result={result} />
        </div>
        <div>
          <p className="head mb-1">Where {player}s end</p>
          <Bars
            bins={result.histogram}
            expected={result.value.expected_mean}
            height={150}
            label="value per player"
          />
          <p className="label flex justify-between">
            <span>{whole(result.histogram[0]?.from ?? 0)}</span>
            <span>gold: expected</span>
            <span>{whole(result.histogram.at(-1)?.to ?? 0)}</span>
          </p>
        </div>
      </section>
      <section className="pt-3" aria-label="items per player">
        <p className="head">In a {player}’s bag</p>
        <ItemTable trial={trial} result={result} one={words.one} />
      </section>
    </>
  )
}

function ItemTable({ trial, result, one }: { trial: TrialOut; result: TrialResult; one: string }) {
  const parts = useGame((state) => state.parts)
  const [open, setOpen] = useState<string | null>(null)
  const beyond = `${whole(trial.spec.events)}+`
  const order = [...parts.item.keys()].filter((id) => result.items[id])
  const gone = Object.keys(result.items).filter((id) => !parts.item.has(id))
  const agreeing = Object.values(result.items).filter(
    (item) => item.z !== null && Math.abs(item.z) < 4,
  ).length
  return (
    <table className="w-full text-[12px]">
      <thead className="text-muted">
        <tr className="border-b border-hair text-right align-bottom leading-tight [&>th]:px-1 [&>th]:pb-1 [&>th]:font-normal">
          <th className="text-left">item</th>
          <th>
            expected
            <br />
            mean
          </th>
          <th>
            observed
            <br />
            mean
          </th>
          <th colSpan={2}>
            <Explained term="z" /> against exact,
            <br />
            {agreeing} of {Object.keys(result.items).length} agree
          </th>
          <th>
            with
            <br />
            none
          </th>
          <th>
            first {one},<br />
            half
          </th>
          <th>
            nine in
            <br />
            ten
          </th>
          <th>
            99 in
            <br />
            100
          </th>
          <th>
            <Explained term="drought" />
            <br />
            99&#8239;%
          </th>
        </tr>
      </thead>
      <tbody>
        {[...order, ...gone].map((id) => {
          const item = result.items[id]
          if (!item) return null
          return (
            <ItemRow
              key={id}
              id={id}
              item={item}
              beyond={beyond}
              open={open === id}
              onOpen={() => setOpen(open === id ? null : id)}
            />
          )
        })}
      </tbody>
    </table>
  )
}

function ItemRow({
  id,
  item,
  beyond,
  open,
  onOpen,
}: {
  id: string
  item: TrialItem
  beyond: string
  open: boolean
  onOpen: () => void
}) {
  const parts = useGame((state) => state.parts)
  const body = parts.item.get(id)
  return (
    <>
      <tr
        className="h-[24px] cursor-pointer border-b border-hair/70 text-right hover:bg-gold-wash [&>td]:px-1"
        onClick={onOpen}
      >
        <td className="text-left">
          <button
            type="button"
            aria-expanded={open}
            className="flex items-center gap-2 text-left whitespace-nowrap"
          >
            <TierMark tier={parts.tier.get(body?.tier ?? '')} />
            <span className="name text-[13.5px]">{body?.name ?? id}</span>
          </button>
        </td>
        <td className="num">{figures(item.expected_mean, 4)}</td>
        <td className="num">{figures(item.mean, 4)}</td>
        <td>
          <ZMark z={item.z} />
        </td>
        <td className="num">
          {item.z === null ? '' : (item.z < 0 ? '−' : '+') + Math.abs(item.z).toFixed(2)}
        </td>
        <td className="num">{percent(item.none_share, 2)}&#8239;%</td>
        <td className="num">{item.first_50 === null ? beyond : whole(item.first_50)}</td>
        <td className="num">{item.first_90 === null ? beyond : whole(item.first_90)}</td>
        <td className="num">{item.first_99 === null ? beyond : whole(item.first_99)}</td>
        <td className="num">{whole(item.drought_99)}</td>
      </tr>
      {open && (
        <tr>
          <td colSpan={10} className="px-6 py-2">
            <Bars
              bins={item.histogram}
              expected={item.expected_mean}
              height={64}
              label={`how many ${body?.name ?? id}`}
            />
            <p className="label flex justify-between">
              <span>{whole(item.histogram[0]?.from ?? 0)}</span>
              <span>
                how many each has: half {whole(item.p50)}, 5–95&#8239;% {whole(item.p05)} to{' '}
                {whole(item.p95)}; gold: expected
              </span>
              <span>{whole(item.histogram.at(-1)?.to ?? 0)}</span>
            </p>
          </td>
        </tr>
      )}
    </>
  )
}

export function TrialReading({ id }: { id: string }) {
  const { data: trial } = useTrial(id)
  const parts = useGame((state) => state.parts)
  const result = trial?.result
  if (!trial || !result)
    return <p className="p-4 text-muted">What players end with will be read here.</p>
  const player = parts.settings.words?.player ?? 'player'
  const { value } = result
  return (
    <>
      <section className="border-b border-hair p-4">
        <p className="text-[14px] leading-6">
          A {player} ends with <b className="num">{whole(value.mean)}</b> {parts.settings.currency}{' '}
          on average; half end above <b className="num">{whole(value.p50)}</b>, one in twenty below{' '}
          <b className="num">{whole(value.p05)}</b>, one in twenty above{' '}
          <b className="num">{whole(value.p95)}</b>.
        </p>
        <p className="mt-1 text-[12px] text-muted">
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
      <section className="p-4 text-[12px] text-muted">
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
  const { parts, revision } = useGamePart('parts', 'revision')
  const ladder = [...parts.tier.values()].reverse()
  const count = (tier: string) =>
    Object.entries(one.items).reduce(
      (sum, [id, units]) => sum + (parts.item.get(id)?.tier === tier ? units : 0),
      0,
    )
  const replay = () => {
    const { view, depth, seed } = trial.spec
    setDepth(depth)
    show({ kind: view.kind, id: view.id })
    useGame.setState({ replay: { seed, player: one.player, kernel: trial.kernel } })
  }
  return (
    <div className="grid grid-cols-[76px_64px_1fr_auto] items-center gap-2 py-0.5 text-[12.5px]">
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
      {trial.revision === revision && (
        <button type="button" className="choice" onClick={replay}>
          replay
        </button>
      )}
    </div>
  )
}

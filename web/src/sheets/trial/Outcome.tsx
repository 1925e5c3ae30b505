// What came of a trial: value over events, where players end, and item by item beside what was expected.
import type { TrialOut, TrialResult } from '@/api/types'
import { useGame } from '@/game/store'
import { eventWords } from '@/game/words'
import { Bars } from '@/plots/Bars'
import { FanPlot } from '@/plots/Fan'
import { whole } from '@/ui/format'
import { ItemTable } from './ItemTable'

export function Outcome({ trial, result }: { trial: TrialOut; result: TrialResult }) {
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

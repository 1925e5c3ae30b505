// What came of a trial: in words, value over events or stops, where players end, tiers, and item by item
// beside what was expected.
import { api } from '@/api/client'
import type { TrialOut, TrialResult, TrialStop } from '@/api/types'
import type { Parts } from '@/game/parts'
import { setDepth, useGame } from '@/game/store'
import { Bars, type Bin } from '@/plots/Bars'
import { FanPlot } from '@/plots/Fan'
import { figures, percent, whole, zText } from '@/text/format'
import { TierNamed } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'
import { KeptTold } from '@/sheets/kept/KeptTold'
import type { Wish } from '@/sheets/target/edits'
import { aboutTrial, replay } from './about'
import { HoldTried } from './holding'
import { ItemTable } from './ItemTable'
import { KitAndSets } from './KitAndSets'

export function Outcome({ trial, result }: { trial: TrialOut; result: TrialResult }) {
  const parts = useGame((state) => state.parts)
  const { words } = aboutTrial(parts, trial.spec)
  const player = parts.settings.words?.player ?? 'player'
  const { value } = result
  return (
    <>
      <Told trial={trial} result={result} player={player} unit={parts.settings.currency} />
      <section
        className="grid grid-cols-[1fr_190px] gap-4 border-b border-hair py-3"
        aria-label="value per player"
      >
        <div>
          <p className="mb-1 flex justify-between gap-3">
            <span className="head">
              {parts.settings.currency} a {player}
              {trial.spec.route ? ', stop by stop' : ', ahead of what was expected'}
            </span>
            <span className="label text-right">
              bands 5–95 and 25–75&#8239;%; lines: luckiest, median, unluckiest
            </span>
          </p>
          <FanPlot trial={trial} result={result} />
        </div>
        <div>
          <p className="head mb-1">Where {player}s end</p>
          <Bars
            bins={result.histogram}
            expected={value.expected_mean}
            height={150}
            label={`where ${player}s end`}
            {...(trial.result && {
              onChoose: (bin: Bin) => void choosePlayer(trial, (bin.from + bin.to) / 2),
            })}
          />
          <p className="label flex justify-between">
            <span>{whole(result.histogram[0]?.from ?? 0)}</span>
            <span>{value.expected_mean === null ? '' : 'gold: expected'}</span>
            <span>{whole(result.histogram.at(-1)?.to ?? 0)}</span>
          </p>
        </div>
      </section>
      {result.stops && <Stops trial={trial} stops={result.stops} parts={parts} />}
      {(result.kept ?? result.purse) && (
        <section className="border-b border-hair py-3" aria-label="what is kept">
          <p className="head">What is kept</p>
          <KeptTold
            kept={result}
            name={trial.name}
            depths={result.stops ? result.stops.map((stop) => stop.depth) : null}
          />
        </section>
      )}
      <KitAndSets result={result} parts={parts} name={trial.name} />
      <section className="border-b border-hair py-3" aria-label="tiers">
        <p className="head">Tiers</p>
        <Tiers trial={trial} result={result} parts={parts} />
      </section>
      <section className="pt-3" aria-label="items per player">
        <p className="head">What a {player} received</p>
        <ItemTable trial={trial} result={result} one={words.one} />
      </section>
    </>
  )
}

/** Whoever ended nearest to what was picked. */
async function choosePlayer(trial: TrialOut, value: number): Promise<void> {
  const { player } = await api.nearPlayer(useGame.getState().id, trial.id, value)
  replay(trial.id, player)
}

/** What an average and an unlucky player lived through. */
function Told(props: { trial: TrialOut; result: TrialResult; player: string; unit: string }) {
  const { trial, result, player, unit } = props
  const { value, inequality, untold } = result
  const under = inequality.under_50 ?? 0
  return (
    <section className="border-b border-hair py-3 text-lead leading-6" aria-label="in words">
      Half of {player}s end with <b className="num">{whole(value.p50)}</b> {unit} or less; an
      unlucky one in twenty with <b className="num">{whole(value.p05)}</b> or less, a lucky one with{' '}
      <b className="num">{whole(value.p95)}</b> or more
      {inequality.p95_p05 ? (
        <>
          ,{' '}
          <HoldTried
            trial={trial}
            isPlain={false}
            wishes={{ after: ratioAfter(inequality.p95_p05) }}
          >
            {figures(inequality.p95_p05)}
          </HoldTried>{' '}
          times as much
        </>
      ) : null}
      .{' '}
      <HoldTried trial={trial} isPlain={false} wishes={{ after: lessAfter(value.mean / 2, under) }}>
        {percent(under)}&#8239;%
      </HoldTried>{' '}
      get less than half of the mean.
      {inequality.gini !== null && inequality.gini !== undefined && (
        <span className="text-muted"> Gini {figures(inequality.gini, 2)}.</span>
      )}
      {result.repeats !== null && result.repeats !== undefined && (
        <>
          {' '}
          The next thing is the same as the last in{' '}
          <b className="num">{percent(result.repeats)}&#8239;%</b>.
        </>
      )}
      {result.seconds_mean ? (
        <span>
          {' '}
          It takes <b className="num">{figures(result.seconds_mean / 60)}</b> minutes.
        </span>
      ) : null}
      {untold && (
        <p className="text-note text-muted">Not set beside what was expected: {untold}.</p>
      )}
    </section>
  )
}

const ratioAfter =
  (wanted: number) =>
  (events: number): Wish => ({ figure: 'spread', spread: 'p95/p5', events, wanted })

const lessAfter =
  (less: number, wanted: number) =>
  (events: number): Wish => ({
    ...{ figure: 'less', less_than: Number(less.toPrecision(3)), events, wanted },
    side: 'at-most',
  })

function Stops({ trial, stops, parts }: { trial: TrialOut; stops: TrialStop[]; parts: Parts }) {
  const { name } = trial
  const word = parts.settings.words?.depth ?? 'depth'
  const rows = stops.map((stop, at) => ({ ...stop, at }))
  type Row = (typeof rows)[number]
  const of = (id: 'mean' | 'p05' | 'p50' | 'p95' | 'expected_mean' | 'z', head: string) => ({
    id,
    head,
    value: (row: Row) => row.value?.[id] ?? null,
    cell: (row: Row) => (id === 'z' ? zText(row.value?.z) : figures(row.value?.[id], 4)),
  })
  const columns: DataColumn<Row>[] = [
    { id: 'stop', head: 'stop', value: (row) => row.at + 1 },
    { id: 'depth', head: word, value: (row) => row.depth },
    { id: 'leg', head: 'leg', align: 'left', value: (row) => row.leg },
    {
      id: 'events',
      head: 'events',
      value: (row) => row.events,
      cell: (row) => figures(row.events),
    },
    {
      id: 'minutes',
      head: 'minutes',
      value: (row) => row.seconds / 60,
      cell: (row) => figures(row.seconds / 60),
    },
    {
      ...of('mean', `${parts.settings.currency}, mean`),
      // A target of a route is about its end.
      cell: (row) => (
        <HoldTried
          trial={trial}
          wishes={
            row.value && row.at === stops.length - 1
              ? { onRoute: { figure: 'value', wanted: row.value.mean } }
              : {}
          }
        >
          {figures(row.value?.mean, 4)}
        </HoldTried>
      ),
    },
    of('expected_mean', 'expected'),
    of('z', 'z'),
    of('p05', '5 %'),
    of('p50', 'half'),
    of('p95', '95 %'),
  ]
  return (
    <section className="border-b border-hair py-3" aria-label="by stop">
      <p className="head">By stop, since the start</p>
      <div className="max-h-64 overflow-auto">
        <DataTable
          label={`stops, ${name}`}
          columns={columns}
          rows={rows}
          keyOf={(row) => String(row.at)}
          onOpen={(row) => setDepth(row.depth)}
        />
      </div>
    </section>
  )
}

function Tiers(props: { trial: TrialOut; result: TrialResult; parts: Parts }) {
  const { trial, result, parts } = props
  const rows = [...parts.tier.values()].flatMap((tier) => {
    const found = result.tiers[tier.id]
    return found && found.mean > 0 ? [{ ...found, tier }] : []
  })
  type Row = (typeof rows)[number]
  const columns: DataColumn<Row>[] = [
    {
      id: 'tier',
      head: 'tier',
      align: 'left',
      value: (row) => row.tier.name,
      cell: (row) => <TierNamed tier={row.tier} name={row.tier.name} />,
    },
    { id: 'mean', head: 'each has', value: (row) => row.mean, cell: (row) => figures(row.mean, 4) },
    {
      id: 'expected',
      head: 'expected',
      value: (row) => row.expected_mean,
      cell: (row) => figures(row.expected_mean, 4),
    },
    { id: 'z', head: 'z', term: 'z', value: (row) => row.z, cell: (row) => zText(row.z) },
    {
      id: 'share',
      head: 'share of what falls, %',
      value: (row) => 100 * row.share,
      cell: (row) => {
        const share = { figure: 'share' as const, tier: row.tier.id, wanted: row.share }
        return (
          <HoldTried trial={trial} wishes={{ after: () => share, onRoute: share }}>
            {percent(row.share)}&#8239;%
          </HoldTried>
        )
      },
    },
  ]
  return (
    <DataTable
      label={`tiers per player, ${trial.name}`}
      columns={columns}
      rows={rows}
      keyOf={(row) => row.tier.id}
    />
  )
}

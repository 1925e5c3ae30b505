// One source at one depth: what came of every item beside what was due, and under which table it would be likelier.
import type { LogGroup, LogItem } from '@/api/types'
import { show, useGame } from '@/game/store'
import { figures, percent, whole } from '@/text/format'
import { SourceMark, TierNamed } from '@/ui/Marks'
import { DataTable, type DataColumn } from '@/ui/table/DataTable'

const VERDICTS = { agrees: 'agrees', few: 'too few to say', differs: 'does not agree' } as const

export function Group({ group }: { group: LogGroup }) {
  const parts = useGame((state) => state.parts)
  const word = parts.settings.words?.depth ?? 'depth'
  const where = group.depth === null ? `at every ${word} of the log` : `at ${word} ${group.depth}`
  const source = parts.source.get(group.source)
  const ladder = [...parts.tier.keys()]
  const rank = (item: string) => ladder.indexOf(parts.item.get(item)?.tier ?? '')
  const rows = [...group.items].sort((a, b) => rank(b.item) - rank(a.item))
  const columns: DataColumn<LogItem>[] = [
    {
      id: 'item',
      head: 'item',
      align: 'left',
      value: (row) => parts.item.get(row.item)?.name ?? row.item,
      cell: (row) => (
        <TierNamed
          tier={parts.tier.get(parts.item.get(row.item)?.tier ?? '')}
          name={parts.item.get(row.item)?.name ?? row.item}
          small
        />
      ),
    },
    { id: 'due', head: 'due', value: (row) => row.expected, cell: (row) => figures(row.expected) },
    { id: 'came', head: 'came', value: (row) => row.observed, cell: (row) => whole(row.observed) },
    {
      id: 'z',
      head: 'z',
      value: (row) => row.z,
      cell: (row) => (row.z === null ? '' : row.z.toFixed(1)),
    },
    {
      id: 'rate',
      head: 'any in 100 events, between',
      value: (row) => (row.interval ? 100 * row.interval[0] : null),
      cell: (row) =>
        row.interval && (
          <>
            {percent(row.interval[0])}–{percent(row.interval[1])}
          </>
        ),
    },
    {
      id: 'authored',
      head: 'authored',
      value: (row) => (row.chance === null ? null : 100 * row.chance),
      cell: (row) => (row.chance === null ? '' : percent(row.chance)),
    },
    {
      id: 'wait',
      head: 'players with one (due), by event',
      value: (row) => row.wait?.had ?? null,
      cell: (row) => row.wait && <Wait wait={row.wait} />,
    },
    {
      id: 'drought',
      head: 'longest without (due)',
      value: (row) => row.drought?.longest ?? null,
      cell: (row) => row.drought && <Drought drought={row.drought} />,
    },
    {
      id: 'power',
      head: '20 % off seen with, %',
      value: (row) => (row.power === null ? null : 100 * row.power),
      cell: (row) => (row.power === null ? '' : percent(row.power)),
    },
    {
      id: 'needed',
      head: 'events for 80 %',
      value: (row) => row.needed ?? null,
      cell: (row) => (row.needed == null ? '' : whole(row.needed)),
    },
    {
      id: 'verdict',
      head: 'says',
      align: 'left',
      value: (row) => VERDICTS[row.verdict],
      cell: (row) => (
        <span className={row.verdict === 'differs' ? 'font-semibold text-bad' : 'text-muted'}>
          {VERDICTS[row.verdict]}
        </span>
      ),
    },
  ]
  return (
    <section aria-label={`${source?.name ?? group.source} ${where}`} className="pt-5">
      <h2 className="flex items-baseline gap-2">
        {source && <SourceMark kind={source.kind} />}
        <button
          type="button"
          className="name text-heading hover:bg-gold-wash"
          onClick={() => show({ kind: 'source', id: group.source })}
        >
          {source?.name ?? group.source}
        </button>
        <span className="text-note text-muted">
          {where}
          {group.flags.length > 0 &&
            `, ${group.flags.map((flag) => parts.flag.get(flag)?.name ?? flag).join(', ')}`}
          , <span className="num">{whole(group.events)}</span> events:{' '}
          <b className={group.verdict === 'differs' ? 'text-bad' : 'text-ink'}>
            {VERDICTS[group.verdict]}
          </b>
          {!group.told && '; what is due cannot be told'}
          {group.played !== null && group.played !== undefined && (
            <span title="What cannot be told exactly, since something is carried from event to event or lines of one pick differ, is told from everybody in the log played through the same events; the error of that is counted in.">
              ; everybody played <span className="num">{whole(group.played)}</span> times through
              the same events
            </span>
          )}
        </span>
      </h2>
      {group.better.length > 0 && (
        <p className="pb-1 text-note">
          {group.better.map((one, at) => (
            <span key={`${one.kind}/${one.id}/${one.depth}/${one.each}`}>
              {at === 0 ? 'It looks like ' : ', or '}
              <span className="name">
                {parts[one.kind as 'source'].get(one.id)?.name ?? one.id}
              </span>{' '}
              at {word} <span className="num">{one.depth}</span>
              {one.each && (
                <>
                  {' '}
                  with every line of{' '}
                  <span className="name">{parts.table.get(one.each)?.name ?? one.each}</span> rolled
                  by itself
                </>
              )}
              {one.times_likelier !== null && (
                <span className="text-muted"> ({likelier(one.times_likelier)} likelier)</span>
              )}
            </span>
          ))}
          .
        </p>
      )}
      <Whole group={group} />
      <DataTable
        label={`items of ${source?.name ?? group.source} ${where}`}
        columns={columns.filter((one) => rows.some((row) => one.value(row) !== null))}
        rows={rows}
        keyOf={(row) => row.item}
      />
    </section>
  )
}

/** What no single thing shows: events with anything at all, and all things at once. */
function Whole({ group }: { group: LogGroup }) {
  const { any, together } = group
  if (!any && !together) return null
  return (
    <p className="pb-1 text-note text-muted">
      {any && (
        <>
          Anything at all came in <b className="num text-ink">{whole(any.observed)}</b> events,{' '}
          <span className="num">{figures(any.expected)}</span> were due: <Says of={any} />.{' '}
        </>
      )}
      {together && (
        <>
          All things at once
          {together.value === null ? (
            ', of which some never come together'
          ) : (
            <>
              {' '}
              (chi-square <span className="num">{figures(together.value)}</span> of{' '}
              <span className="num">{together.of}</span>)
            </>
          )}
          : <Says of={together} />.
        </>
      )}
    </p>
  )
}

function Says({ of }: { of: { verdict: LogItem['verdict'] } }) {
  const differs = of.verdict === 'differs'
  return <b className={differs ? 'text-bad' : 'font-normal text-ink'}>{VERDICTS[of.verdict]}</b>
}

function Wait({ wait }: { wait: NonNullable<LogItem['wait']> }) {
  const due = figures(wait.due * wait.players)
  return (
    <span
      className={`whitespace-nowrap ${wait.verdict === 'differs' ? 'font-semibold text-bad' : ''}`}
      title={`Of ${whole(wait.players)} players with ${whole(wait.within)} events, those that had one by then`}
    >
      {whole(wait.had)} ({due}) by {whole(wait.within)}
    </span>
  )
}

function Drought({ drought }: { drought: NonNullable<LogItem['drought']> }) {
  const [low, high] = drought.due
  return (
    <span
      className={`whitespace-nowrap ${drought.verdict === 'differs' ? 'font-semibold text-bad' : ''}`}
    >
      {whole(drought.longest)} ({whole(low)}–{whole(high)})
    </span>
  )
}

/** What is told of chances has an end: beyond it only that it is beyond. */
function likelier(times: number): string {
  if (times >= 1e300) return 'beyond 10^300 times'
  return times >= 1e6 ? `10^${Math.floor(Math.log10(times))} times` : `${whole(times)} times`
}

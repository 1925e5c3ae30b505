// What the thing in view means for players: a sentence, the wait, the spread, where the swing is.
import { Fragment, useEffect, useRef, useState } from 'react'
import { useOdds, useSpread, useStaleOdds } from '@/game/queries'
import type { Focus, Line, OddsOut, SheetOdds, SpreadOut, WaitOut } from '@/api/types'
import { useGame, viewInSight, useGamePart } from '@/game/store'
import type { Parts } from '@/game/parts'
import { eventWords, lineTier, nameOfLine, ROLL, type EventWords } from '@/game/words'
import { SpreadPlot } from '@/plots/Spread'
import { WaitPlot } from '@/plots/Wait'
import { figures, percent, whole } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { Pending } from '@/ui/Pending'
import { useLate } from '@/game/useLate'
import { scales } from '@/sheets/curve/places'
import { thingOf, type Wish } from '@/sheets/target/edits'
import { Hold } from '@/sheets/target/Hold'
import { MeanAgainstSwing } from './MeanAgainstSwing'
import { TouchedTargets, WantThis } from './Targets'
import { laterWords, waitSentence, type Sure } from './waitWords'
import { Explained } from '@/ui/Explained'

export function Reading() {
  const { parts, focus, depth, longRun } = useGamePart('parts', 'focus', 'depth', 'longRun')
  const sheet = useGame(viewInSight)
  const onCurve = useGame((state) => (state.sheet?.kind === 'curve' ? state.sheet.id : null))
  const odds = useOdds(focus)
  const { data } = odds
  const isAway = odds.state.is === 'out of reach'
  // Of what was chosen before there is nothing to say under the name of what is chosen now.
  const wait = data?.wait && (!focus || isSame(data.wait.focus, focus)) ? data.wait : null
  const stale = useStaleOdds()
  // Until something is chosen the server tells of the rarest tier that falls.
  const about = focus ?? data?.wait?.focus ?? null
  const source = sheet?.kind === 'source' ? parts.source.get(sheet.id) : undefined
  const words = sheet?.kind === 'table' ? ROLL : eventWords(source)
  const player = parts.settings.words?.player ?? 'player'
  const isLater = longRun && (data?.sheet.carries ?? false)
  return (
    <>
      <section
        className={`border-b border-hair told px-4 pb-3 pt-3 ${stale ? 'stale' : ''}`}
        aria-label="sentence"
      >
        <p className="flex justify-between text-small text-muted">
          <span>
            {isLater ? `A ${player}’s long run` : `Fresh ${player}`} at{' '}
            {parts.settings.words?.depth ?? 'depth'} {depth}
            {onCurve && sheet && `, ${parts[sheet.kind].get(sheet.id)?.name}`}
            {onCurve && sheet && !scales(parts, onCurve, sheet) && ', which it does not scale'}
          </span>
          {data && (
            <span role="status">
              {isAway
                ? 'the server cannot be reached: of before'
                : stale || (focus && !wait)
                  ? 'being worked out'
                  : known(data, player)}
            </span>
          )}
        </p>
        {!data && <Pending of={odds} what="what it gives" />}
        {data && wait && about && (
          <Sentence
            wait={wait}
            thing={wholeThing(parts, about)}
            name={focusName(parts, about, data.sheet)}
            words={words}
            player={player}
            isLater={isLater}
          />
        )}
        {data && about && <WantThis sheet={data.sheet} focus={about} />}
        {data && !about && <p className="mt-1">Nothing falls here at this depth.</p>}
      </section>
      {data && wait && wait.points.length > 0 && wait.p_any < 1 && (
        <section className="border-b border-hair px-4 py-2.5" aria-label="wait">
          <Title name="Wait" note={`have one by this ${words.one}`} />
          <WaitPlot
            wait={wait}
            name={about ? focusName(parts, about, data.sheet) : ''}
            one={words.one}
            many={words.many}
          />
        </section>
      )}
      <TouchedTargets />
      <SpreadPart words={words} player={player} />
      {data && <Swing sheet={data.sheet} />}
    </>
  )
}

function isSame(one: OneFocus, other: Focus): boolean {
  return (
    one.kind === other.kind &&
    (one.id ?? null) === (other.id ?? null) &&
    (one.drop ?? null) === (other.drop ?? null) &&
    (one.table ?? null) === (other.table ?? null) &&
    (one.line ?? null) === (other.line ?? null)
  )
}

type OneFocus = WaitOut['focus']

function Title({ name, note }: { name: React.ReactNode; note: string }) {
  return (
    <p className="mb-1 flex items-baseline justify-between">
      <span className="head">{name}</span>
      <span className="label">{note}</span>
    </p>
  )
}

/** The one item or tier that a sentence is about, where a target could be. */
type Thing = ReturnType<typeof thingOf>

function Sentence({
  wait,
  thing,
  name,
  words,
  player,
  isLater,
}: {
  wait: WaitOut
  thing: Thing | null
  name: string
  words: EventWords
  player: string
  isLater: boolean
}) {
  if (wait.one_in === null)
    return (
      <p className="mt-1 text-lead leading-6">
        <b className="name">{name}</b> never falls here at this depth.
      </p>
    )
  if (wait.p_any >= 1)
    return (
      <p className="mt-1 text-lead leading-6" data-testid="sentence">
        <b className="name">{name}</b>: every {words.one} gives at least one.
      </p>
    )
  return (
    <p className="mt-1 text-lead leading-6" data-testid="sentence">
      <b className="name">{name}</b>:{' '}
      {isLater && <InTheLongRun wait={wait} many={words.many} thing={thing} />}
      one in{' '}
      <Hold wish={thing && { figure: 'one-in', ...thing, wanted: wait.one_in }}>
        {figures(wait.one_in)}
      </Hold>
      <PlusMinus of={(wait.p_any_error / wait.p_any) * wait.one_in} /> {words.many}
      {isLater ? ' at first' : later(wait, words.many, player)}.{' '}
      {waitSentence(wait, words, player).map((piece, at) =>
        typeof piece === 'string' ? (
          <Fragment key={at}>{piece}</Fragment>
        ) : (
          <By key={at} wait={wait} {...piece} thing={thing} />
        ),
      )}
    </p>
  )
}

/** How often on average over very many events of one player. */
function InTheLongRun({ wait, many, thing }: { wait: WaitOut; many: string; thing: Thing | null }) {
  const mean = wait.long_run_mean
  if (wait.late_mean !== null)
    return (
      <>
        {figures(100 * wait.late_mean)}
        <PlusMinus of={100 * wait.long_run_error} /> per 100 {many} in the last that were played,
        before the long run;{' '}
      </>
    )
  if (mean === null) return <>in the long run not told; </>
  if (mean <= 0) return <>never in the long run; </>
  return (
    <>
      <Hold wish={thing && { figure: 'mean', ...thing, long_run: true, wanted: mean }}>
        {figures(100 * mean)}
      </Hold>
      <PlusMinus of={100 * wait.long_run_error} /> per 100 {many} in the long run,{' '}
    </>
  )
}

/** By which event, with its standard error. */
function By({
  wait,
  sure,
  after,
  thing,
}: {
  wait: WaitOut
  sure: Sure
  after: string
  thing: Thing | null
}) {
  const at = `first_${sure}` as const
  const wanted = wait[at]
  const error = wait.errors[at] ?? 0
  if (wanted === null) return null
  return (
    <>
      <Hold
        after={error > 0 ? '' : after}
        wish={thing && { figure: 'wait', sure, ...thing, side: 'at-most', wanted, tolerance: 0 }}
      >
        {whole(wanted)}
      </Hold>
      <PlusMinus of={error} />
      {error > 0 && after}
    </>
  )
}

/** The standard error of a simulated figure, beside it. */
function PlusMinus({ of = 0 }: { of?: number }) {
  return of > 0 ? <span className="num text-muted"> ±&#8239;{figures(of, 2)}</span> : null
}

/** Where what players carry changes the odds: how often in the long run. */
function later(wait: WaitOut, many: string, player: string): string {
  const error = wait.long_run_error > 0 ? ` ±\u202f${figures(100 * wait.long_run_error, 2)}` : ''
  const often = (mean: number | null) => `${figures(100 * (mean ?? 0))}${error} per 100 ${many}`
  switch (laterWords(wait)) {
    case 'alike':
      return ''
    case 'ends':
      return ` at first, and none any more once a ${player} has had all there are`
    case 'long run':
      return ` at first, ${often(wait.long_run_mean)} in the long run`
    case 'late':
      return ` at first, ${often(wait.late_mean)} later on; the long run is not told`
    case 'untold':
      return ' at first; the long run is not told'
  }
}

/** A line gives what others may give too, so that its figures are of no one thing. */
function wholeThing(parts: Parts, focus: Focus): Thing | null {
  const thing = focus.kind === 'item' || focus.kind === 'tier' ? thingOf(parts, focus) : null
  return thing && (thing.item || thing.tier) ? thing : null
}

/** How the numbers here are known. */
function known(odds: OddsOut, player: string): string {
  const { next, later } = odds.sheet
  if (odds.wait?.method === 'simulated') return simulated(later.players, player)
  if (next.method === 'simulated') return simulated(next.players, player)
  return odds.wait?.method === 'untold' ? 'too many states for the wait' : 'exact'
}

const simulated = (players: number, player: string) => `simulated, ${whole(players)} ${player}s`

/** What is looked at; of a line that it is one line, where others give the same. */
function focusName(parts: Parts, focus: Focus, sheet: SheetOdds): string {
  if (focus.kind === 'item') return parts.item.get(focus.id ?? '')?.name ?? ''
  if (focus.kind === 'tier') return `Any ${parts.tier.get(focus.id ?? '')?.name ?? ''}`
  if (focus.kind === 'drop') return 'This drop'
  const table = parts.table.get(focus.table ?? '')
  const line = table?.lines.find((one) => one.id === focus.line)
  if (!table || !line) return ''
  const alike = Object.keys(sheet.tables)
    .flatMap((id): Line[] => parts.table.get(id)?.lines ?? [])
    .filter((one) => one !== line && givesSome(one, line))
  const name = nameOfLine(parts, table, line.id)
  return alike.length ? `${name} by this line of ${table.name}` : name
}

/** Whether a line gives one of the items that another gives. */
function givesSome(one: Line, line: Line): boolean {
  const items = new Set(line.yields.map((given) => given.item).filter(Boolean))
  return one.yields.some((given) => given.item && items.has(given.item))
}

const STOPS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000]

function SpreadPart({ words, player }: { words: EventWords; player: string }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const sheet = useGame(viewInSight)
  const [stop, setStop] = useState(7)
  const events = STOPS[stop] ?? 200
  const spread = useSpread(events)
  const { data, isPlaceholderData } = spread
  const stale = useLate(isPlaceholderData)
  const about = `${sheet?.kind}/${sheet?.id}/${depth}/${events}`
  const before = usePrevious(isPlaceholderData ? undefined : data, about)
  return (
    <section
      className={`border-b border-hair told px-4 py-2.5 ${stale ? 'stale' : ''}`}
      aria-label="spread"
    >
      <Title
        name={
          <>
            Spread after <span className="num">{whole(events)}</span>{' '}
            {events === 1 ? words.one : words.many}
          </>
        }
        note={stale ? 'being worked out' : `a dot is 1 ${player} in 100`}
      />
      <input
        type="range"
        aria-label={`spread after how many ${words.many}`}
        min={0}
        max={STOPS.length - 1}
        value={stop}
        className="weight-slider w-full"
        onChange={(event) => setStop(Number(event.target.value))}
      />
      {data && varies(data) && (
        <SpreadPlot
          spread={data}
          before={before}
          name={`Spread after ${whole(events)} ${events === 1 ? words.one : words.many}`}
          unit={parts.settings.currency}
        />
      )}
      {data && !varies(data) && (
        <p className="text-note">
          Every {player} ends with <b className="num">{figures(data.p50)}</b>{' '}
          {parts.settings.currency}.
        </p>
      )}
      {data && varies(data) && (
        <p className="text-note">
          Half above <b className="num">{figures(data.p50)}</b>
          <PlusMinus of={data.errors.p50} /> {parts.settings.currency}, 5–95&#8239;%{' '}
          <b className="num">{figures(data.p05)}</b>
          <PlusMinus of={data.errors.p05} /> to{' '}
          <Hold wish={ratio(data, events)}>{figures(data.p95)}</Hold>
          <PlusMinus of={data.errors.p95} />
          {data.method === 'simulated' && (
            <span className="text-muted">
              , simulated with {whole(data.players)} {player}s
            </span>
          )}
          {data.method === 'bounded' && (
            <span className="text-muted">, where ± is the most they can be off by</span>
          )}
        </p>
      )}
      {before && (
        <p className="text-small text-muted">
          Before the edit <span className="num">{figures(before.p50)}</span>, 5–95&#8239;%{' '}
          <span className="num">{figures(before.p05)}</span> to{' '}
          <span className="num">{figures(before.p95)}</span>
        </p>
      )}
      {!data && <Pending of={spread} what="the spread" />}
    </section>
  )
}

/** The lucky over the unlucky, where it can be told exactly. */
function ratio({ p05, p95, method, grid_error }: SpreadOut, events: number): Wish | null {
  const isExact = method === 'exact' && grid_error === 0
  if (!isExact || p05 <= 0) return null
  return { figure: 'spread', spread: 'p95/p5', events, side: 'at-most', wanted: p95 / p05 }
}

function varies(spread: SpreadOut): boolean {
  return spread.dots[0] !== spread.dots.at(-1)
}

interface Shown {
  about: string
  content: string
  spread: SpreadOut
}

/** The spread as it was before the latest edit of what is in view: what was saved, not what was tried. */
function usePrevious(now: SpreadOut | undefined, about: string): SpreadOut | null {
  const content = useGame((state) => state.content)
  const isSaved = useGame((state) => !state.draft.length && !state.unsaved.length)
  const shown = useRef<Shown | null>(null)
  const [before, setBefore] = useState<Shown | null>(null)
  useEffect(() => {
    if (!now) return
    const last = shown.current
    if (last?.about === about && (!isSaved || last.content !== content)) setBefore(last)
    if (isSaved) shown.current = { about, content, spread: now }
  }, [now, content, about, isSaved])
  return before && before.about === about && before.spread.p50 !== now?.p50 ? before.spread : null
}

function Swing({ sheet }: { sheet: SheetOdds }) {
  const parts = useGame((state) => state.parts)
  const rows = swingRows(parts, sheet)
  const shown = rows.length === 7 ? rows : rows.slice(0, 6)
  const rest = rows.slice(shown.length).reduce((sum, row) => sum + row.share, 0)
  const most = Math.max(...shown.map((row) => row.share), 1e-9)
  if (!shown.length) return null
  return (
    <section className="px-4 py-2.5" aria-label="where the swing comes from">
      <Title
        name={
          <>
            Where the <Explained term="swing" /> comes from
          </>
        }
        note="share of variance"
      />
      {shown.map((row) => (
        <SwingRow key={row.key} row={row} most={most} />
      ))}
      {rows.length > shown.length && (
        <p className="flex justify-between text-small text-muted">
          <span className="pl-[21px]">{rows.length - shown.length} other lines</span>
          <span className="num">{percent(rest)}&#8239;%</span>
        </p>
      )}
      <MeanAgainstSwing />
    </section>
  )
}

interface SwingEntry {
  key: string
  name: string
  tier: string | null
  share: number
  focus: Focus
}

/** Lines that give things themselves (not by way of another table), by their share. */
function swingRows(parts: Parts, sheet: SheetOdds): SwingEntry[] {
  const rows: SwingEntry[] = []
  for (const [table, odds] of Object.entries(sheet.tables))
    for (const line of parts.table.get(table)?.lines ?? []) {
      const share = odds.lines[line.id]?.share ?? 0
      const direct = line.yields.some((given) => given.item || given.pool)
      if (direct && share > 1e-6)
        rows.push({
          key: `${table}/${line.id}`,
          name: nameOfLine(parts, parts.table.get(table), line.id),
          tier: lineTier(parts, line),
          share,
          focus: { kind: 'line', table, line: line.id },
        })
    }
  return rows.sort((a, b) => b.share - a.share)
}

function SwingRow({ row, most }: { row: SwingEntry; most: number }) {
  const tier = useGame((state) => state.parts.tier.get(row.tier ?? ''))
  return (
    <div className="grid w-full grid-cols-[1fr_92px_52px] items-center gap-2 text-note hover:bg-gold-wash">
      <button
        type="button"
        className="flex min-w-0 items-center gap-2 text-left"
        onClick={() => useGame.setState({ focus: row.focus })}
      >
        <TierMark tier={tier} />
        <span className="name truncate">{row.name}</span>
      </button>
      <span
        className="h-[7px]"
        style={{
          width: `${(100 * row.share) / most}%`,
          background: tier?.colour ?? 'var(--color-ghost)',
        }}
      />
      <Hold
        className="text-right"
        isPlain
        wish={{
          figure: 'swing-of',
          swing_of: { table: row.focus.table ?? '', part: row.focus.line ?? '' },
          side: 'at-most',
          wanted: row.share,
        }}
      >
        {percent(row.share)}&#8239;%
      </Hold>
    </div>
  )
}

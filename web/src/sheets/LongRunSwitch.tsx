// Whether the sheet's numbers are a fresh player's or the long run's, where the two differ.
import type { SheetOdds } from '@/api/types'
import { useGame, useGamePart } from '@/game/store'
import { figures, whole } from '@/text/format'
import { Switch } from '@/ui/Switch'
import { Explained } from '@/ui/Explained'

export function LongRunSwitch({ sheet }: { sheet: SheetOdds | undefined }) {
  const { parts, longRun } = useGamePart('parts', 'longRun')
  if (!sheet?.carries) return sheet ? <Simulated sheet={sheet} /> : null
  const player = parts.settings.words?.player ?? 'player'
  return (
    <span className="flex items-baseline gap-2">
      <Switch
        label="whose numbers these are"
        value={longRun}
        choices={[
          { value: false, words: `fresh ${player}`, term: 'fresh player' },
          { value: true, words: 'long run', term: 'long run' },
        ]}
        onChange={(next) => useGame.setState({ longRun: next })}
      />
      {!longRun && <Simulated sheet={sheet} />}
      {sheet.later.method !== 'exact' && (longRun || sheet.later.method === 'untold') && (
        <span className="text-waiting" title={sheet.later.why ?? undefined}>
          {sheet.later.method === 'untold'
            ? 'too many states for the long run'
            : `simulated, ${whole(sheet.later.players)} ${player}s, ${runWords(sheet)}`}
        </span>
      )}
    </span>
  )
}

/** How near the value of the long run is; or that it has not come to that. */
function runWords({ value, later }: SheetOdds): string {
  if (value.long_run_mean === null && later.over)
    return `not settled by the ${whole(later.over[1])}th`
  return `value ±\u202f${figures(value.long_run_error)}`
}

/** That the next event had to be played, where it could not be worked out. */
function Simulated({ sheet }: { sheet: SheetOdds }) {
  const player = useGame((state) => state.parts.settings.words?.player ?? 'player')
  if (sheet.next.method === 'exact') return null
  return (
    <span className="text-waiting" title={sheet.next.why ?? undefined}>
      simulated, {whole(sheet.next.players)} {player}s
    </span>
  )
}

/** What an event pays: a fresh player's next one, or on average in the long run. */
export function Pays({ sheet, one }: { sheet: SheetOdds; one: string }) {
  const { parts, longRun } = useGamePart('parts', 'longRun')
  const later = longRun && sheet.carries
  const { mean, sd, cv, long_run_mean: run } = sheet.value
  return (
    <span className="ml-auto">
      {one} <b className="num text-ink">{later ? figures(run) || '–' : figures(mean)}</b>{' '}
      {parts.settings.currency}
      {later ? (
        <>
          {' '}
          in the <Explained term="long run" />
        </>
      ) : (
        <>
          , <Explained term="sd" /> <b className="num text-ink">{figures(sd)}</b>
        </>
      )}
      {!later && cv !== null && (
        <>
          , <Explained term="cv" /> <b className="num text-ink">{figures(cv)}</b>
        </>
      )}
    </span>
  )
}

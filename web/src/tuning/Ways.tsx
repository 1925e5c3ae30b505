// In which way numbers are looked for, as a sentence whose words are choices; other ways that lead there, with
// their price; and what may move, before anything is found.
import type { TuneOut } from '@/api/types'
import { useGame } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { figures } from '@/text/format'
import { isOfPoint, lookAtOther, setWay, useTuning, type Kind, type Way } from './tuning'

export const WAYS: Record<Way, string> = {
  smallest: 'the smallest change',
  fewest: 'the fewest numbers',
  weights: 'weights alone',
  curves: 'curves alone',
}

const KINDS: Record<string, Kind[]> = {
  'usual numbers': [],
  weights: ['weights'],
  chances: ['chances'],
  curves: ['curves'],
  guards: ['guards', 'chances', 'weights'],
  quantities: ['quantities'],
  'all numbers': ['weights', 'chances', 'curves', 'guards', 'quantities'],
}

const FACTORS = [1.1, 1.2, 1.5, 2, 3, 5, 10]

/** In which way numbers are looked for, as a sentence; and other ways that lead there, with their price. */
export function Ways() {
  const { way, kinds, most, holdLongRun, found, others } = useTuning()
  const isPoint = useTuning(isOfPoint)
  const carries = holdLongRun || Boolean(found?.long_run.length)
  if (isPoint) return null
  const kind = Object.keys(KINDS).find((name) => KINDS[name]?.join() === kinds.join())
  return (
    <p className="pb-1 text-muted">
      By{' '}
      <Choice
        label="in which way"
        value={way}
        options={WAYS}
        onChange={(next) => setWay({ way: next as Way })}
      />{' '}
      of{' '}
      <Choice
        label="of which numbers"
        value={kind ?? 'usual numbers'}
        options={Object.fromEntries(Object.keys(KINDS).map((name) => [name, name]))}
        onChange={(next) => setWay({ kinds: KINDS[next] ?? [] })}
      />
      , by{' '}
      <Choice
        label="by which factor at most"
        value={String(most ?? '')}
        options={{
          '': 'any factor',
          ...Object.fromEntries(FACTORS.map((x) => [x, `up to ×${x}`])),
        }}
        onChange={(next) => setWay({ most: next ? Number(next) : null })}
      />
      {carries && (
        <>
          , the long run{' '}
          <Choice
            label="the long run of waits"
            value={holdLongRun ? 'stays' : 'moves'}
            options={{ moves: 'may move', stays: 'stays' }}
            onChange={(next) => setWay({ holdLongRun: next === 'stays' })}
          />
        </>
      )}
      {found?.status === 'met' && <Price found={found} />}
      {others.map((other) => (
        <span key={other.way}>
          {'. Or '}
          <button
            type="button"
            className="underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => lookAtOther(other)}
          >
            {WAYS[other.way]}
          </button>
          <Price found={other.found} />
        </span>
      ))}
      .
    </p>
  )
}

function Price({ found }: { found: TuneOut }) {
  const many = found.numbers.length
  return (
    <span title="How large all of it is: the root of the sum of squared logarithms of ratios.">
      : {many} number{many === 1 ? '' : 's'}, <span className="num">{figures(found.size, 2)}</span>{' '}
      in all
    </span>
  )
}

/** What may move, before anything is found. */
export function Free() {
  const { free } = useTuning()
  const parts = useGame((state) => state.parts)
  if (!free) return null
  return (
    <p>
      May move:{' '}
      {free.free.map(({ kind, id, numbers }, at) => (
        <span key={`${kind}/${id}`}>
          {at > 0 && ', '}
          <span className="name text-ink">{parts[kind].get(id)?.name ?? id}</span>{' '}
          {Object.entries(numbers)
            .map(([of, many]) => `${many} ${of}`)
            .join(' and ')}
        </span>
      ))}
      .
    </p>
  )
}

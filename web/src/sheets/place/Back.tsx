// What is there for whoever comes back, by how often one comes.
import type { Place, PlaceOut, VisitPoint } from '@/api/types'
import { useGame } from '@/game/store'
import { SpanPlot } from '@/plots/Span'
import { EditText } from '@/ui/EditText'
import { figures, percent } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { change } from '@/game/edit'

export function Back({
  place,
  data,
  every,
  onEvery,
}: {
  place: Place
  data: PlaceOut | undefined
  every: number
  onEvery: (every: number) => void
}) {
  const parts = useGame((state) => state.parts)
  const player = parts.settings.words?.player ?? 'player'
  const whole = (text: string) => {
    const value = typedNumber(text)
    return value !== null && Number.isInteger(value) && value >= 1 ? value : null
  }
  const time = (key: 'refill_seconds' | 'lasts_seconds', never: string) => (
    <EditText
      label={key === 'refill_seconds' ? 'seconds between refills' : 'seconds that it lasts'}
      text={place[key] ? String(place[key]) : never}
      onCommit={(text) => {
        if (text.trim() === never || text.trim() === '')
          return change('place', place.id, 'coming back', { [key]: null })
        const seconds = whole(text)
        return seconds === null
          ? { message: `whole seconds, or ${never}` }
          : change('place', place.id, 'coming back', { [key]: seconds })
      }}
    />
  )
  const worth = Object.entries(data?.visit?.per_hour ?? {}).reduce(
    (sum, [item, many]) => sum + many * (parts.item.get(item)?.value ?? 0),
    0,
  )
  return (
    <div className="border-y border-hair py-2">
      <p className="text-body leading-7 text-muted">
        An empty spot tries again every {time('refill_seconds', 'never')}
        {place.refill_seconds ? ' s' : ''}
        {place.refill_seconds && (
          <>
            ; what came lies {time('lasts_seconds', 'for good')}
            {place.lasts_seconds ? ' s' : ''}. A {player} who comes every{' '}
            <EditText
              label="seconds between visits"
              text={String(every)}
              onCommit={(text) => {
                const seconds = whole(text)
                if (seconds === null) return { message: 'whole seconds from 1' }
                onEvery(seconds)
                return null
              }}
            />{' '}
            s and takes all gets <b className="num text-ink">{figures(worth)}</b>{' '}
            {parts.settings.currency} an hour
            {data?.visit && data.visit.unseen_share > 0 && (
              <>
                , and never sees{' '}
                <b className="num text-ink">{percent(data.visit.unseen_share)}&#8239;%</b> of what
                came
              </>
            )}
          </>
        )}
        .
      </p>
      {data?.visit && data.visit.curve.length > 1 && (
        <VisitsByPace curve={data.visit.curve} currency={parts.settings.currency} />
      )}
    </div>
  )
}

/** What an hour brings, by how often one comes. */
function VisitsByPace({ curve, currency }: { curve: VisitPoint[]; currency: string }) {
  const best = curve.reduce((a, b) => (b.per_hour > a.per_hour ? b : a))
  return (
    <>
      <p className="label">{currency} an hour, by seconds between visits</p>
      <SpanPlot
        name={`${currency} an hour, by how often one comes`}
        says={`most for who comes every ${best.every} seconds: ${figures(best.per_hour)}`}
        unit="seconds between visits"
        head={`${currency} an hour`}
        isLog
        height={96}
        width={360}
        points={curve.map((one) => ({ at: one.every, mean: one.per_hour }))}
      />
    </>
  )
}

// The sentence that says of whom it is told what is kept.
import { useGame } from '@/game/store'
import { EVENT_OF } from '@/game/words'
import { EditText } from '@/ui/EditText'
import { typedNumber } from '@/text/numbers'
import { useChosen, type Subject } from './subject'

const MOST = 1_000_000

export function SubjectChoice({ subject }: { subject: Subject }) {
  const parts = useGame((state) => state.parts)
  const player = parts.settings.words?.player ?? 'player'
  const source = parts.source.get(subject.source ?? '')
  return (
    <span>
      {subject.route !== null ? `a ${player} along ` : `a ${player} after `}
      {source && (
        <>
          <EditText
            label="how many events"
            text={String(subject.events)}
            className="choice num text-ink"
            inputClass="num w-20"
            onCommit={(text) => {
              const events = typedNumber(text)
              if (events === null || !Number.isInteger(events) || events < 1 || events > MOST)
                return { message: 'a whole number from 1 to 1 000 000' }
              useChosen.setState({ events })
              return null
            }}
          />{' '}
          {EVENT_OF[source.kind].many} of{' '}
        </>
      )}
      <select
        aria-label="of whom"
        className="choice max-w-[220px] bg-transparent text-ink"
        value={subject.of}
        onChange={(event) => useChosen.setState({ of: event.target.value })}
      >
        <optgroup label="along a route">
          {[...parts.route.values()]
            .filter((route) => route.legs.length > 0)
            .map((route) => (
              <option key={route.id} value={`route/${route.id}`}>
                {route.name}
              </option>
            ))}
        </optgroup>
        <optgroup label="at a source, at the depth in view">
          {[...parts.source.values()].map((one) => (
            <option key={one.id} value={`source/${one.id}`}>
              {one.name}
            </option>
          ))}
        </optgroup>
      </select>
    </span>
  )
}

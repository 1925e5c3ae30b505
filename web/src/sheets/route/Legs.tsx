// The legs of a route as sentences whose words are choices; moved by their number, by Alt and the arrows, or by
// their menu.
import { useState, type KeyboardEvent } from 'react'
import type { Route, RouteLeg, RouteOdds } from '@/api/types'
import { useGame, useGamePart } from '@/game/store'
import { EVENT_OF, quantityText, typedQuantity } from '@/game/words'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { FlagButtons } from '@/ui/FlagButtons'
import { entered, figures, typedDepth } from '@/text/format'
import { Menu, Pop } from '@/ui/Menu'
import { readChance } from '@/text/numbers'
import { useCarry } from '@/ui/useCarry'
import { change, type Answer } from '@/game/edit'
import { inserted } from '@/ui/grid/rows'
import { doingOf, movedLeg, newLeg, NOTHING, oftenOf, VISITS, withDoing, withOften } from './legs'

export function Legs({ route, odds }: { route: Route; odds: RouteOdds | undefined }) {
  const { depth, parts } = useGamePart('depth', 'parts')
  const legs = route.legs
  const [carried, setCarried] = useState<Carried | null>(null)
  const save = (label: string, changed: (legs: RouteLeg[]) => RouteLeg[]) =>
    change('route', route.id, label, (now) => ({ ...now, legs: changed(now.legs) }))
  return (
    <>
      <ol aria-label={`legs of ${route.name}`} className="divide-y divide-hair/70 text-body">
        {legs.map((leg, at) => (
          <Leg
            key={leg.id}
            leg={leg}
            at={at}
            carried={carried}
            onCarry={setCarried}
            gained={gainedOn(odds, leg.id)}
            onChange={(label, changed) =>
              save(label, (now) =>
                now.map((one) => (one.id === leg.id ? { ...one, ...changed } : one)),
              )
            }
            onMove={(by) =>
              void save('moved a leg', (now) =>
                movedLeg(
                  now,
                  now.findIndex(({ id }) => id === leg.id),
                  by,
                ),
              )
            }
            onCopy={() => {
              const copy = { ...leg, id: newLeg(legs, leg.from).id }
              void save('duplicated a leg', (now) => inserted(now, copy, at))
            }}
            onDelete={() =>
              void save('removed a leg', (now) => now.filter((one) => one.id !== leg.id))
            }
          />
        ))}
      </ol>
      {legs.length === 0 && (
        <p className="py-2 text-muted">
          Where does a {parts.settings.words?.player ?? 'player'} go, and what is done there? Add a
          leg: depths one after another, with visits, one source or a place to empty.
        </p>
      )}
      {/* It stays at the foot of a list that scrolls. */}
      <div className="sticky bottom-0 bg-paper">
        <button
          type="button"
          className="label py-1.5 hover:text-ink"
          onClick={() =>
            void save('added a leg', (now) => [...now, newLeg(now, now.at(-1)?.to ?? depth)])
          }
        >
          + add a leg
        </button>
      </div>
    </>
  )
}

/** What a leg brings on average, where that is told. */
function gainedOn(odds: RouteOdds | undefined, leg: string): number | null {
  if (odds?.method !== 'exact') return null
  const first = odds.stops.findIndex((stop) => stop.leg === leg)
  const last = odds.stops.findLast((stop) => stop.leg === leg)
  if (first < 0 || !last?.value) return null
  return last.value.mean - (odds.stops[first - 1]?.value?.mean ?? 0)
}

/** A leg on its way to another place. */
interface Carried {
  at: number
  to: number
}

interface LegProps {
  leg: RouteLeg
  at: number
  carried: Carried | null
  onCarry: (carried: Carried | null) => void
  gained: number | null
  onChange: (label: string, changed: Partial<RouteLeg>) => Answer
  onMove: (by: number) => void
  onCopy: () => void
  onDelete: () => void
}

function Leg(props: LegProps) {
  const { leg, at, gained, onChange, onMove, onCopy, onDelete } = props
  const { parts } = useGamePart('parts')
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  const doing = doingOf(leg)
  const source = parts.source.get(leg.source ?? '')
  const isOne = leg.from === leg.to
  const end = (which: 'from' | 'to') => (
    <EditText
      label={`leg ${at + 1}, ${which} ${word}`}
      text={String(leg[which])}
      show={isOne && which === 'to' ? 'and on to' : undefined}
      className={isOne && which === 'to' ? 'label hover:text-ink' : 'choice num text-ink'}
      inputClass="num w-12"
      onCommit={(text) => {
        const depth = typedDepth(text, [from, to])
        if (typeof depth === 'string') return { message: depth }
        const both = isOne && which === 'from' ? { to: depth } : {}
        return onChange('depths of a leg', { ...both, [which]: depth })
      }}
    />
  )
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.target !== event.currentTarget) return
    if (event.altKey && event.key === 'ArrowUp') onMove(-1)
    else if (event.altKey && event.key === 'ArrowDown') onMove(1)
    else if (event.key === 'Delete') onDelete()
    else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'd') onCopy()
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <li
      tabIndex={0}
      aria-label={`leg ${at + 1}`}
      className={`group grid grid-cols-[20px_1fr_auto] gap-x-2 py-1.5 leading-6 ${markOf(at, props.carried)}`}
      onKeyDown={onKeyDown}
    >
      <LegGrip at={at} onCarry={props.onCarry} onMove={onMove} />
      <p className="text-muted">
        {isOne ? `At ${word}` : `From ${word}`} {end('from')} {!isOne && 'to '}
        {end('to')}, {leg.place && 'empties '}
        {doing !== NOTHING && !leg.place && (
          <EditText
            label={`leg ${at + 1}, how often`}
            text={quantityText(oftenOf(leg))}
            className="choice num text-ink"
            inputClass="num w-20"
            onCommit={(text) =>
              onChange('how often', withOften(leg, typedQuantity(text, oftenOf(leg).curve)))
            }
          />
        )}{' '}
        {source && <>{EVENT_OF[source.kind].many} of </>}
        <Choice
          label={`leg ${at + 1}, what is done`}
          value={doing}
          options={{
            [VISITS]: 'visits',
            ...Object.fromEntries(
              [...parts.source.values()].map((one) => [`source/${one.id}`, one.name]),
            ),
            ...Object.fromEntries(
              [...parts.place.values()].map((one) => [`place/${one.id}`, one.name]),
            ),
            [NOTHING]: 'nothing',
          }}
          onChange={(next) => void onChange('what a leg does', withDoing(leg, next))}
        />
        {!isOne && doing !== NOTHING && ' each'}
        <Flags leg={leg} at={at} onChange={onChange} />
        <Emptied leg={leg} at={at} onChange={onChange} />
        {gained !== null && (
          <span className="ml-2 whitespace-nowrap">
            +<b className="num text-ink">{figures(gained)}</b> {parts.settings.currency}
          </span>
        )}
      </p>
      <Menu
        label={`What to do with leg ${at + 1}`}
        align="end"
        trigger={
          <button type="button" className="self-start px-1 text-muted hover:text-ink">
            ⋯
          </button>
        }
        entries={[
          { label: 'Move up', keys: 'Alt ↑', run: () => onMove(-1), disabled: at === 0 },
          { label: 'Move down', keys: 'Alt ↓', run: () => onMove(1) },
          { label: 'Duplicate', keys: 'Ctrl D', run: onCopy },
          { label: 'Delete', keys: 'Del', bad: true, run: onDelete },
        ]}
      />
    </li>
  )
}

/** A line where the leg that is carried would go; itself it is lifted. */
function markOf(at: number, carried: Carried | null): string {
  if (carried?.at === at) return 'bg-raised'
  if (carried?.to !== at) return ''
  return carried.to < carried.at
    ? 'shadow-[inset_0_2px_0_var(--color-gold)]'
    : 'shadow-[inset_0_-2px_0_var(--color-gold)]'
}

/** Its number, by which a leg is carried to another place. */
function LegGrip({ at, onCarry, onMove }: Pick<LegProps, 'at' | 'onCarry' | 'onMove'>) {
  const bind = useCarry({
    at,
    placeOf: ({ y, grip }) => {
      const rows = [...(grip.closest('ol')?.children ?? [])]
      return rows.filter((row, place) => place !== at && middleOf(row) < y).length
    },
    onOver: (to) => onCarry(to === null ? null : { at, to }),
    onMoved: (to) => onMove(to - at),
  })
  return (
    <span
      {...bind()}
      title="carry the leg up or down (or Alt and an arrow)"
      className="num cursor-grab touch-none select-none self-start text-muted active:cursor-grabbing"
    >
      {at + 1}
    </span>
  )
}

function middleOf(row: Element): number {
  const { top, height } = row.getBoundingClientRect()
  return top + height / 2
}

/** What becomes of the bag after the leg. */
function Emptied({ leg, at, onChange }: Pick<LegProps, 'leg' | 'at' | 'onChange'>) {
  const { parts } = useGamePart('parts')
  const money = [...parts.item.values()].filter((item) => item.currency)
  const sells = leg.sells ?? null
  const save = (changed: Partial<RouteLeg>) =>
    void onChange('the bag after a leg', { sells: null, stores: false, ...changed })
  return (
    <>
      {sells || leg.stores ? '; then ' : ' '}
      <Menu
        label={`leg ${at + 1}, the bag after it`}
        trigger={
          <button
            type="button"
            className={sells || leg.stores ? 'choice text-ink' : 'label hover:text-ink'}
          >
            {sells
              ? `sells the bag for ${parts.item.get(sells.item)?.name ?? sells.item}`
              : leg.stores
                ? 'puts the bag’s things aside'
                : '+ bag'}
          </button>
        }
        entries={[
          { label: 'Keeps the bag', disabled: !sells && !leg.stores, run: () => save({}) },
          {
            label: 'Puts the bag’s things aside',
            disabled: leg.stores,
            run: () => save({ stores: true }),
          },
          ...money.map((item) => ({
            label: `Sells the bag’s things for ${item.name}`,
            disabled: sells?.item === item.id,
            run: () => save({ sells: { item: item.id, share: sells?.share ?? 0.5 } }),
          })),
        ]}
      />
      {sells && (
        <>
          {' at '}
          <EditText
            label={`leg ${at + 1}, share of their worth`}
            text={`${entered(sells.share, 100)} %`}
            className="choice num text-ink"
            inputClass="num w-16"
            onCommit={(text) => {
              const share = readChance(text)
              return typeof share === 'string'
                ? { message: share }
                : onChange('share of a sale', { sells: { ...sells, share } })
            }}
          />{' '}
          of its worth
        </>
      )}
    </>
  )
}

/** The flags that are gained after the leg, and lost. */
function Flags({ leg, at, onChange }: Pick<LegProps, 'leg' | 'at' | 'onChange'>) {
  const flags = useGame((state) => state.parts.flag)
  if (!flags.size) return null
  const named = (ids: string[]) => ids.map((id) => flags.get(id)?.name ?? id).join(', ')
  const part = (key: 'gains' | 'loses') => (
    <Pop
      label={`leg ${at + 1} ${key}`}
      trigger={
        <button
          type="button"
          className={leg[key].length ? 'choice text-ink' : 'label hover:text-ink'}
        >
          {leg[key].length ? `${key} ${named(leg[key])}` : `+ ${key}`}
        </button>
      }
    >
      <p className="label mb-1.5">After its last stop it {key}</p>
      <FlagButtons
        label={`leg ${at + 1} ${key}`}
        set={leg[key]}
        onChange={(set) => void onChange(key, { [key]: set })}
      />
    </Pop>
  )
  return (
    <>
      {leg.gains.length + leg.loses.length > 0 ? '; ' : ' '}
      {part('gains')} {part('loses')}
    </>
  )
}

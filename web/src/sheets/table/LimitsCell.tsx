// What limits a line or drop: its guard, its limit, the flags it needs. Chips, and a small popover.
import { useState } from 'react'
import type { Drop, EntryIn, Held, Line } from '@/api/types'
import { chosenCurve, curvesFor, OWN } from '@/game/curves'
import type { Parts } from '@/game/parts'
import { show, useGame, type Failure } from '@/game/store'
import { GuardCurve } from '@/plots/GuardCurve'
import { Pop } from '@/ui/Menu'
import { SmallForm } from '@/ui/SmallForm'
import { entered, percent, typedNumber, typedRange } from '@/ui/format'

type Gated = Line | Drop
type Guard = NonNullable<Line['guard']>

interface Props {
  part: Gated
  name: string
  /** Whether the guard's rise is added to a chance (else it multiplies a weight). */
  byChance: boolean
  canGuard?: boolean
  /** The chance with no misses yet, which a guard raises. */
  chance?: number
  /** What the tray's player carries of it now. */
  held?: Held
  /** `more` are edits that go with it: of a curve of its own. */
  onChange: (label: string, changed: Partial<Line>, more: EntryIn[]) => Promise<Failure | null>
}

export function guardText(guard: Guard, byChance: boolean): string {
  const rise = guard.rise
    ? `+${byChance ? percent(guard.rise) : percent(guard.rise)} % after ${guard.after}`
    : ''
  const sure = guard.sure_at ? `sure at ${guard.sure_at}` : ''
  return [rise, sure].filter(Boolean).join(', ') || 'guard without effect'
}

export function limitsText(parts: Parts, part: Gated, byChance: boolean): string {
  const flag = (id: string) => parts.flag.get(id)?.name ?? id
  const limit =
    'limit' in part && part.limit ? [part.limit === 1 ? 'once' : `${part.limit} times`] : []
  const guard = part.guard ? [guardText(part.guard, byChance)] : []
  return [
    ...limit,
    ...guard,
    ...part.needs.map((id) => `only if: ${flag(id)}`),
    ...part.unless.map((id) => `not if: ${flag(id)}`),
    ...(hasOwnDepths(part) ? [`at ${part.depths?.join('-')}`] : []),
  ].join('; ')
}

export function LimitsCell(props: Props) {
  const { part, name, byChance } = props
  const parts = useGame((state) => state.parts)
  const [open, setOpen] = useState(false)
  const chips = chipsOf(part)
  return (
    <Pop
      label={`limits of ${name}`}
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button
          type="button"
          aria-label={`limits of ${name}: ${limitsText(parts, part, byChance) || 'none'}`}
          className="flex h-full w-full items-center gap-1 overflow-hidden text-left"
        >
          {chips.map((chip) => (
            <span
              key={chip}
              title={limitsText(parts, part, byChance)}
              className="rounded-sm border border-hair bg-raised px-1 text-[10.5px] leading-4 whitespace-nowrap"
            >
              {chip}
            </span>
          ))}
          {part.guard && props.chance !== undefined && (
            <GuardCurve
              guard={part.guard}
              chance={props.chance}
              byChance={byChance}
              misses={props.held?.misses ?? 0}
            />
          )}
          {chips.length === 0 && <span className="text-hair group-hover:text-muted">+</span>}
        </button>
      }
    >
      <LimitsForm {...props} onDone={() => setOpen(false)} />
    </Pop>
  )
}

function chipsOf(part: Gated): string[] {
  const chips: string[] = []
  if ('limit' in part && part.limit) chips.push(part.limit === 1 ? 'once' : `≤ ${part.limit}`)
  if (part.guard)
    chips.push(part.guard.sure_at ? `sure ${part.guard.sure_at}` : `+${percent(part.guard.rise)} %`)
  if (part.needs.length + part.unless.length) chips.push('flag')
  if (hasOwnDepths(part)) chips.push(part.depths?.join('–') ?? '')
  return chips
}

/** A drop's depths stand here; a line's have a column of their own. */
const hasOwnDepths = (part: Gated) => !('limit' in part) && part.depths !== null

function LimitsForm({
  part,
  name,
  byChance,
  canGuard = true,
  onChange,
  onDone,
}: Props & { onDone: () => void }) {
  const flags = [...useGame((state) => state.parts.flag).values()]
  const [limit, setLimit] = useState('limit' in part && part.limit ? String(part.limit) : '')
  const [after, setAfter] = useState(part.guard ? String(part.guard.after) : '')
  const [rise, setRise] = useState(part.guard?.rise ? entered(100 * part.guard.rise) : '')
  const [sure, setSure] = useState(part.guard?.sure_at ? String(part.guard.sure_at) : '')
  const [curve, setCurve] = useState(part.curve ?? '')
  const parts = useGame((state) => state.parts)
  const [needs, setNeeds] = useState(part.needs)
  const [unless, setUnless] = useState(part.unless)
  const { from, to } = parts.settings.depth
  const [depths, setDepths] = useState(part.depths?.join('-') ?? '')
  const [problem, setProblem] = useState('')
  const save = async () => {
    const range = typedRange(depths, [from, to])
    if (typeof range === 'string') return setProblem(range)
    const guarded = rise.trim() !== '' || sure.trim() !== ''
    const guard = guarded
      ? {
          after: typedNumber(after || '0'),
          rise: (typedNumber(rise || '0') ?? NaN) / 100,
          sure_at: sure.trim() ? typedNumber(sure) : null,
        }
      : null
    const bad =
      guard &&
      (guard.after === null || Number.isNaN(guard.rise) || (sure.trim() && guard.sure_at === null))
    const count = limit.trim() ? typedNumber(limit) : null
    if (bad || (limit.trim() && count === null)) return setProblem('these are numbers')
    const scaled = chosenCurve(parts, curve, name)
    const changed = {
      guard: guard as Guard | null,
      curve: scaled.curve,
      needs,
      unless,
      ...('limit' in part ? { limit: count } : { depths: range }),
    }
    const failure = await onChange('limits', changed, scaled.entries)
    if (failure) return setProblem(failure.message)
    onDone()
    if (curve === OWN && scaled.curve) show({ kind: 'curve', id: scaled.curve })
  }
  const field = (label: string, value: string, set: (text: string) => void) => (
    <input
      aria-label={label}
      className="field num w-14"
      value={value}
      onChange={(event) => set(event.target.value)}
    />
  )
  return (
    <SmallForm className="w-80 space-y-2.5" problem={problem} onSave={() => void save()}>
      {!('limit' in part) && (
        <p>
          Only at {parts.settings.words?.depth ?? 'depth'}s{' '}
          {field('depths where it is open', depths, setDepths)} as in 4-12, empty for all.
        </p>
      )}
      {'limit' in part && (
        <p>At most {field('limit', limit, setLimit)} times for one player, empty for no limit.</p>
      )}
      {canGuard ? (
        <p className="leading-7">
          Guard against a long wait: after {field('after how many misses', after, setAfter)} misses
          in a row, {byChance ? 'add' : 'raise the weight by'} {field('rise', rise, setRise)} %
          each; sure at {field('sure at', sure, setSure)} in a row.
        </p>
      ) : (
        <p className="text-muted">A deck is its own guard.</p>
      )}
      <p className="flex justify-between gap-2">
        Scaled with depth by
        <select
          aria-label="scaled by"
          className="field"
          value={curve}
          onChange={(event) => setCurve(event.target.value)}
        >
          <option value="">no curve</option>
          {!parts.curve.get(part.curve ?? '')?.private && (
            <option value={OWN}>a curve of its own</option>
          )}
          {curvesFor(parts, part.curve).map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        {part.curve && curve === part.curve && (
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: 'curve', id: part.curve ?? '' })}
          >
            open it
          </button>
        )}
      </p>
      {flags.length === 0 && (
        <p className="text-muted">
          It could need something of a {parts.settings.words?.player ?? 'player'}:{' '}
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: 'flags', id: 'all' })}
          >
            make a flag
          </button>
        </p>
      )}
      {flags.map((flag) => (
        <p key={flag.id} className="flex justify-between gap-2">
          {flag.name}
          <select
            aria-label={flag.name}
            className="field"
            value={needs.includes(flag.id) ? 'needs' : unless.includes(flag.id) ? 'unless' : ''}
            onChange={(event) => {
              const rest = (list: string[]) => list.filter((id) => id !== flag.id)
              setNeeds(event.target.value === 'needs' ? [...rest(needs), flag.id] : rest(needs))
              setUnless(event.target.value === 'unless' ? [...rest(unless), flag.id] : rest(unless))
            }}
          >
            <option value="">does not matter</option>
            <option value="needs">must be so</option>
            <option value="unless">must not be so</option>
          </select>
        </p>
      ))}
    </SmallForm>
  )
}

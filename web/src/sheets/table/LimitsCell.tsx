// What limits a line or drop: its guard, its limit, the flags it needs. Chips, and a small popover.
import { useState } from 'react'
import type { EntryIn, Held, Line } from '@/api/types'
import { chosenCurve, curvesFor, OWN } from '@/game/curves'
import { freshFlag } from '@/game/fresh'
import { freshId, type Parts } from '@/game/parts'
import { make, type Answer } from '@/game/edit'
import { show, useGame } from '@/game/store'
import { Explained } from '@/ui/Explained'
import { GuardCurve } from '@/plots/GuardCurve'
import { Pop } from '@/ui/Menu'
import { Problem, SmallForm } from '@/ui/SmallForm'
import { percent } from '@/text/format'
import { limitsDraft, readLimits, type Gated, type Guard, type LimitsDraft } from './limits'

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
  onChange: (label: string, changed: Partial<Line>, more: EntryIn[]) => Answer
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
          aria-label={`limits of ${name}: ${limitsText(parts, part, byChance) || 'none'}; ${chips.join(' ')}`}
          className="flex h-full w-full items-center gap-1 overflow-hidden text-left"
        >
          {chips.map((chip) => (
            <span
              key={chip}
              title={limitsText(parts, part, byChance)}
              className="rounded-sm border border-hair bg-raised px-1 text-micro leading-4 whitespace-nowrap"
            >
              {chip}{' '}
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
  const parts = useGame((state) => state.parts)
  const flags = [...parts.flag.values()]
  const [opened] = useState(() => limitsDraft(part))
  const [draft, setDraft] = useState(opened)
  const [curve, setCurve] = useState(part.curve ?? '')
  const [problem, setProblem] = useState('')
  const { from, to } = parts.settings.depth
  const isLine = 'limit' in part
  const save = async () => {
    const read = readLimits(draft, opened, [from, to], isLine)
    if (typeof read === 'string') return setProblem(read)
    const scaled = chosenCurve(parts, curve, name)
    const changed = scaled.curve === part.curve ? read : { ...read, curve: scaled.curve }
    if (Object.keys(changed).length) {
      const failure = await onChange('limits', changed, scaled.entries)
      if (failure) return setProblem(failure.message)
    }
    onDone()
    if (curve === OWN && scaled.curve) show({ kind: 'curve', id: scaled.curve })
  }
  const type = (changed: Partial<LimitsDraft>) => {
    setDraft({ ...draft, ...changed })
    setProblem('')
  }
  const { depths, limit, after, rise, sure, needs, unless } = draft
  const field = (label: string, value: string, key: keyof LimitsDraft) => (
    <input
      aria-label={label}
      className="field num w-14"
      value={value}
      onChange={(event) => type({ [key]: event.target.value })}
    />
  )
  return (
    <SmallForm className="w-80 space-y-2.5" problem={problem} onSave={() => void save()}>
      {!isLine && (
        <p>
          Only at {parts.settings.words?.depth ?? 'depth'}s{' '}
          {field('depths where it is open', depths, 'depths')} as in 4-12, empty for all.
        </p>
      )}
      {isLine && (
        <p>At most {field('limit', limit, 'limit')} times for one player, empty for no limit.</p>
      )}
      {canGuard ? (
        <p className="leading-7">
          <Explained term="guard">Guard</Explained> against a long wait: after{' '}
          {field('after how many misses', after, 'after')} misses in a row,{' '}
          {byChance ? 'add' : 'raise the weight by'} {field('rise', rise, 'rise')} % each; sure at{' '}
          {field('sure at', sure, 'sure')} in a row.
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
      {flags.map((flag) => (
        <p key={flag.id} className="flex justify-between gap-2">
          {flag.name}
          <select
            aria-label={flag.name}
            className="field"
            value={needs.includes(flag.id) ? 'needs' : unless.includes(flag.id) ? 'unless' : ''}
            onChange={(event) => {
              const rest = (list: string[]) => list.filter((id) => id !== flag.id)
              const { value } = event.target
              type({
                needs: value === 'needs' ? [...rest(needs), flag.id] : rest(needs),
                unless: value === 'unless' ? [...rest(unless), flag.id] : rest(unless),
              })
            }}
          >
            <option value="">does not matter</option>
            <option value="needs">must be so</option>
            <option value="unless">must not be so</option>
          </select>
        </p>
      ))}
      <NewFlag onMade={(id) => type({ needs: [...needs, id] })} />
    </SmallForm>
  )
}

/** A flag is made where it is needed; the form goes on with it chosen. */
function NewFlag({ onMade }: { onMade: (id: string) => void }) {
  const parts = useGame((state) => state.parts)
  const [name, setName] = useState('')
  const [problem, setProblem] = useState('')
  const add = async () => {
    if (!name.trim()) return
    const id = freshId(name, parts.flag)
    const flag = { ...freshFlag(id), name: name.trim() }
    const failure = await make('flag', flag, `made the flag ${flag.name}`)
    if (failure) return setProblem(failure.message)
    setName('')
    onMade(id)
  }
  return (
    <div>
      <p className="flex items-baseline justify-between gap-2 text-muted">
        Something else of a {parts.settings.words?.player ?? 'player'}:
        <span className="flex gap-1.5">
          <input
            aria-label="name of a new flag"
            placeholder="has the tongs"
            className="field w-28"
            value={name}
            onChange={(event) => setName(event.target.value)}
            onKeyDown={(event) => {
              if (event.key !== 'Enter') return
              event.preventDefault() // it makes the flag; it does not save the form
              void add()
            }}
          />
          <button type="button" className="plain-button" onClick={() => void add()}>
            make a flag
          </button>
        </span>
      </p>
      <Problem>{problem}</Problem>
    </div>
  )
}

// All targets side by side: a column for each, running down the depths beside the plumb line.
import { useTargets } from '@/game/queries'
import type { Standing, Target } from '@/api/types'
import { show, useGamePart } from '@/game/store'
import { rowAt, told, wantedShort, wantedWords } from '@/game/targets'
import { DepthFrame, shownDepths, useDepthScale } from '@/plots/DepthFrame'
import { DepthTable, type Cell } from '@/plots/DepthTable'
import { Pending } from '@/ui/Pending'
import { standOf, TargetMark } from '@/ui/TargetMark'
import { findNumbers } from '@/tuning/tuning'
import { addTarget } from './edits'

const COLUMN = 78
const LABEL = 26
const HEAD = 62

export function TargetsSheet() {
  const { parts, depth } = useGamePart('parts', 'depth')
  const answer = useTargets()
  const { data } = answer
  const scale = useDepthScale()
  const targets = [...parts.target.values()]
  const standings = new Map(data?.targets.map((one) => [one.id, one]))
  if (!targets.length) return <Empty />
  const met = data?.targets.filter((one) => one.is_met).length
  return (
    <div className="relative h-full">
      <header className="flex items-baseline gap-3 px-5 pt-1.5">
        <h1 className="name text-sheet leading-8">Targets</h1>
        {!data && <Pending of={answer} what="where they stand" />}
        {met !== undefined && (
          <span className="text-note text-muted" data-testid="targets met">
            <b className="num text-ink">{met}</b> of{' '}
            <b className="num text-ink">{targets.length}</b> are met
          </span>
        )}
        <button
          type="button"
          className="gold-button ml-auto self-center"
          onClick={() => findNumbers(null)}
        >
          Find numbers
        </button>
        <button
          type="button"
          className="label underline decoration-hair underline-offset-2 hover:text-ink"
          onClick={() => void addTarget()}
        >
          new target
        </button>
      </header>
      <DepthFrame head={HEAD}>
        <DepthTable
          label="targets by depth"
          head={HEAD}
          width={COLUMN}
          labelWidth={LABEL}
          heads={targets.map((target) => ({
            key: target.id,
            head: <Head target={target} standing={standings.get(target.id)} />,
          }))}
          rows={shownDepths(scale, depth).map((d) => ({
            ...{ key: String(d), label: String(d), depth: d, y: scale.y(d), here: d === depth },
            cell: (at) => {
              const target = targets[at]
              return target ? cellOf(target, standings.get(target.id), d) : NO_CELL
            },
          }))}
        />
      </DepthFrame>
    </div>
  )
}

const NO_CELL: Cell = { text: '' }

function Head({ target, standing }: { target: Target; standing: Standing | undefined }) {
  return (
    <button
      type="button"
      title={`${target.name}: ${wantedWords(target)}`}
      className="w-full text-right text-tiny leading-[1.1] text-muted hover:text-ink"
      onClick={() => show({ kind: 'target', id: target.id })}
    >
      <span className="name line-clamp-3 text-ink">{target.name}</span>
      <span className="flex items-center justify-end gap-1 whitespace-nowrap text-micro tracking-[-0.06em]">
        {wantedShort(target).replace(' ± ', '±')}
        <TargetMark stand={standOf(standing)} />
      </span>
    </button>
  )
}

function cellOf(target: Target, standing: Standing | undefined, depth: number): Cell {
  const row = rowAt(standing, depth)
  if (!standing || row < 0 || !standing.holds.length) return { text: '·', className: 'text-hair' }
  const held = standing.holds[row]
  return {
    text: told(target, standing.figures[row], standing.never[row]),
    title: held ? 'as wanted' : `wanted ${wantedWords(target)}`,
    className: held ? 'bg-[#e6e7d8]' : 'bg-[#ecd8ca] shadow-[inset_-2.5px_0_0_var(--color-bad)]',
  }
}

function Empty() {
  return (
    <div className="px-5 pt-3">
      <h1 className="name text-title leading-10">Targets</h1>
      <p className="max-w-[520px] py-2 text-muted">
        What should a rate be? A target holds a number that you want, with a tolerance, and says at
        which depths it stands elsewhere, from one edit to the next.
      </p>
      <button
        type="button"
        className="underline decoration-gold decoration-2 underline-offset-2 hover:bg-gold-wash"
        onClick={() => void addTarget()}
      >
        Make the first one
      </button>
    </div>
  )
}

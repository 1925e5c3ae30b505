// All targets side by side: a column for each, running down the depths beside the plumb line.
import { useTargets } from '@/api/queries'
import type { Standing, Target } from '@/api/types'
import { setDepth, show, useGame } from '@/game/store'
import { rowAt, told, wantedShort, wantedWords } from '@/game/targets'
import { DepthFrame, shownDepths, useDepthScale } from '@/plots/DepthFrame'
import { standOf, TargetMark } from '@/ui/TargetMark'
import { addTarget } from './edits'

const COLUMN = 78
const LABEL = 26
const HEAD = 62

export function TargetsSheet() {
  const { parts, depth } = useGame()
  const { data } = useTargets()
  const scale = useDepthScale()
  const targets = [...parts.target.values()]
  const standings = new Map(data?.targets.map((one) => [one.id, one]))
  if (!targets.length) return <Empty />
  const met = data?.targets.filter((one) => one.is_met).length
  return (
    <div className="relative h-full">
      <header className="flex items-baseline gap-3 px-5 pt-1.5">
        <span className="name text-[24px] leading-8">Targets</span>
        {met !== undefined && (
          <span className="text-[12.5px] text-muted" data-testid="targets met">
            <b className="num text-ink">{met}</b> of{' '}
            <b className="num text-ink">{targets.length}</b> are met
          </span>
        )}
        <button
          type="button"
          className="label ml-auto underline decoration-hair underline-offset-2 hover:text-ink"
          onClick={() => void addTarget()}
        >
          new target
        </button>
      </header>
      <DepthFrame head={HEAD}>
        <table
          aria-label="targets by depth"
          className="num relative table-fixed text-[11px]"
          style={{ marginTop: -HEAD, width: LABEL + COLUMN * targets.length }}
        >
          <thead>
            <tr style={{ height: HEAD }} className="align-bottom">
              <th style={{ width: LABEL }} />
              {targets.map((target) => (
                <Head key={target.id} target={target} standing={standings.get(target.id)} />
              ))}
            </tr>
          </thead>
          <tbody>
            {shownDepths(scale, depth).map((d) => (
              <tr
                key={d}
                className={`absolute z-10 flex items-center ${d === depth ? 'font-semibold' : ''}`}
                style={{ top: HEAD + scale.y(d) - 7.5, height: 15 }}
              >
                <td style={{ width: LABEL }} className="bg-paper pr-1.5 text-right text-muted">
                  <button type="button" aria-label={`look at ${d}`} onClick={() => setDepth(d)}>
                    {d}
                  </button>
                </td>
                {targets.map((target) => (
                  <Cell
                    key={target.id}
                    target={target}
                    standing={standings.get(target.id)}
                    depth={d}
                  />
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </DepthFrame>
    </div>
  )
}

function Head({ target, standing }: { target: Target; standing: Standing | undefined }) {
  return (
    <th style={{ width: COLUMN }} className="px-1 text-right font-normal">
      <button
        type="button"
        title={`${target.name}: ${wantedWords(target)}`}
        className="w-full text-right text-[11px] leading-[1.1] text-muted hover:text-ink"
        onClick={() => show({ kind: 'target', id: target.id })}
      >
        <span className="name line-clamp-3 text-ink">{target.name}</span>
        <span className="flex items-center justify-end gap-1 whitespace-nowrap text-[10px] tracking-[-0.06em]">
          {wantedShort(target).replace(' ± ', '±')}
          <TargetMark stand={standOf(standing)} />
        </span>
      </button>
    </th>
  )
}

function Cell({
  target,
  standing,
  depth,
}: {
  target: Target
  standing: Standing | undefined
  depth: number
}) {
  const row = rowAt(standing, depth)
  if (!standing || row < 0 || !standing.holds.length)
    return (
      <td style={{ width: COLUMN }} className="px-1 text-right leading-[15px] text-hair">
        ·
      </td>
    )
  const held = standing.holds[row]
  return (
    <td
      style={{ width: COLUMN }}
      className={`px-1 text-right leading-[15px] ${held ? 'bg-[#e6e7d8]' : 'bg-[#ecd8ca] shadow-[inset_-2.5px_0_0_var(--color-bad)]'}`}
      title={held ? 'as wanted' : `wanted ${wantedWords(target)}`}
    >
      {told(target, standing.figures[row], standing.never[row])}
    </td>
  )
}

function Empty() {
  return (
    <div className="px-5 pt-3">
      <h1 className="name text-[32px] leading-10">Targets</h1>
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

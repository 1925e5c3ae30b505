// A curve, edited where depth runs downward beside the plumb line. Every number on screen follows; the
// curve as it was stays as an outline until the edit is done.
import { useEffect } from 'react'
import type { Curve } from '@/api/types'
import { change } from '@/game/edit'
import { useGame, useGamePart } from '@/game/store'
import { DepthFrame, useDepthScale } from '@/plots/DepthFrame'
import { figures } from '@/text/format'
import { Menu } from '@/ui/Menu'
import { Title } from '@/sheets/Title'
import { CurvePlot } from './CurvePlot'
import { InWords } from './InWords'
import { PointList } from './PointList'
import { valueAt, type Points } from './points'
import { Users } from './Users'
import { scales } from './places'

const SHAPES = {
  line: 'straight lines between points',
  step: 'steps: each value holds until the next',
  ease: 'smooth between points',
} as const

export function CurveSheet({ id }: { id: string }) {
  const { parts, draft, depth } = useGamePart('parts', 'draft', 'depth')
  const scale = useDepthScale()
  const saved = parts.curve.get(id)
  const lastView = useGame((state) => state.lastView)
  useEffect(() => {
    // Its effect is shown on what was looked at last, if it scales that; else on the first source that it does.
    const isThere = lastView !== null && parts[lastView.kind].has(lastView.id)
    if (isThere && scales(parts, id, lastView)) return
    const sources = [...parts.source.keys()]
    const source =
      sources.find((one) => scales(parts, id, { kind: 'source', id: one })) ??
      (isThere ? undefined : sources[0])
    if (source) useGame.setState({ lastView: { kind: 'source', id: source } })
  }, [lastView, parts, id])
  if (!saved) return <p className="p-6 text-muted">This curve is gone.</p>
  const drafted = draft.find((one) => one.kind === 'curve' && one.id === id)?.body
  const curve = (drafted as unknown as Curve | undefined) ?? saved
  const save = (label: string, changed: Partial<Curve>) => change('curve', id, label, changed)
  const onPoints = (changed: (points: Points) => Points) =>
    change('curve', id, 'points', (now) => ({ ...now, points: changed(now.points) }))
  const range: [number, number] = [scale.from, scale.to]
  return (
    <div className="relative h-full">
      <header className="px-5 pt-1">
        <Title
          of="curve"
          id={id}
          name={saved.name}
          isLow
          onRename={(name) => save('renamed', { name })}
        />
        <p className="flex flex-wrap items-baseline gap-x-3 text-small text-muted">
          <Menu
            label="shape of the curve"
            trigger={
              <button type="button" className="choice text-ink">
                {SHAPES[saved.shape]}
              </button>
            }
            entries={(['line', 'step', 'ease'] as const).map((shape) => ({
              label: SHAPES[shape],
              disabled: shape === saved.shape,
              run: () => void save('shape', { shape }),
            }))}
          />
          <span>
            ×<b className="num text-ink">{figures(valueAt(curve, depth))}</b> here
          </span>
          {saved.private && (
            <button
              type="button"
              className="choice text-ink"
              title="It is offered nowhere else, and goes when its place takes another curve."
              onClick={() => void save('shared', { private: false })}
            >
              private: let others use it
            </button>
          )}
          <InWords range={range} onMade={(made, words) => save(words, made)} />
        </p>
      </header>
      <DepthFrame>
        <div className="flex pl-5">
          <CurvePlot saved={saved} curve={curve} scale={scale} onPoints={onPoints} />
          <div className="w-[250px] pl-6 text-small">
            <PointList curve={curve} range={range} onPoints={onPoints} />
            <Users id={id} />
          </div>
        </div>
      </DepthFrame>
    </div>
  )
}

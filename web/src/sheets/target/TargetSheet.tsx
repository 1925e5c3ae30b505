// One target: what is wanted, in a sentence whose words are choices, and where the figure stands along
// all depths.
import { useTargets } from '@/game/queries'
import type { Standing, Target } from '@/api/types'
import { show, useGame } from '@/game/store'
import { standingWords, told, wayWords } from '@/game/targets'
import { DepthFrame } from '@/plots/DepthFrame'
import { ROWS_WIDTH, TargetRows } from '@/plots/TargetRows'
import { standOf, TargetMark } from '@/ui/TargetMark'
import { Notes } from '@/ui/Notes'
import { Pending } from '@/ui/Pending'
import { Title } from '@/sheets/Title'
import { Findings } from '../Findings'
import { findNumbers } from '@/tuning/tuning'
import { change } from '@/game/edit'
import type { Save } from './edits'
import { Levers } from './Levers'
import { FlagChoice, Sentence } from './Sentence'

export function TargetSheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const standings = useTargets([id])
  const { data } = standings
  const target = parts.target.get(id)
  if (!target) return <p className="p-6 text-muted">This target is gone.</p>
  const save: Save = (label, changed) => change('target', id, label, changed)
  const standing = data?.targets.find((one) => one.id === id)
  return (
    <div className="relative h-full">
      <header className="relative z-20 px-5 pt-1.5">
        <div className="flex items-baseline gap-2">
          <span className="self-center">
            <TargetMark stand={standOf(standing)} />
          </span>
          <Title
            of="target"
            id={id}
            name={target.name}
            isLow
            onRename={(name) => change('target', target.id, 'renamed', { name })}
          />
          {standing && <Stands target={target} standing={standing} />}
          <button
            type="button"
            className="gold-button ml-auto self-center whitespace-nowrap"
            onClick={() => findNumbers([id])}
          >
            Find numbers
          </button>
          <button
            type="button"
            className="label whitespace-nowrap underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => show({ kind: 'targets', id: 'all' })}
          >
            all targets
          </button>
        </div>
        <Sentence target={target} onSave={save} />
      </header>
      <DepthFrame>
        <div className="flex gap-6 pl-3">
          {/* Room is kept while the figures are worked out: what stands beside them does not move. */}
          <div className="told flex shrink-0 gap-6" style={{ width: ROWS_WIDTH }}>
            {standing && <TargetRows target={target} standing={standing} />}
            {!data && <Pending of={standings} what="where it stands" />}
          </div>
          <section
            className="relative z-10 w-[300px] shrink-0 self-start max-[1100px]:w-[172px] bg-paper pb-2 text-note"
            style={{ marginTop: -18 }}
          >
            <Levers id={id} standing={standing} />
            {standing && standing.way.length > 0 && <Breaks way={standing.way} />}
            {!target.route && !target.stall && <FlagChoice target={target} onSave={save} />}
            <label className="mb-2 flex items-baseline gap-1.5">
              <input
                type="checkbox"
                checked={target.aside}
                onChange={(event) =>
                  void change(
                    'target',
                    target.id,
                    event.target.checked ? 'put aside' : 'asked for again',
                    {
                      aside: event.target.checked,
                    },
                  )
                }
              />
              <span>
                put aside <span className="text-muted">kept, but nothing is asked for it</span>
              </span>
            </label>
            <Notes
              label="notes of the target"
              text={target.notes ?? ''}
              onCommit={(notes) => change('target', target.id, 'notes', { notes })}
            />
            <Findings kind="target" id={id} />
          </section>
        </div>
      </DepthFrame>
    </div>
  )
}

/** How an event comes to break a promise. */
function Breaks({ way }: { way: Standing['way'] }) {
  const parts = useGame((state) => state.parts)
  return (
    <section aria-label="what breaks it" className="mb-3">
      <p className="head mb-0.5">What breaks it</p>
      <p>{wayWords(parts, way)}</p>
    </section>
  )
}

/** Where it holds, and where it is furthest off. */
function Stands({ target, standing }: { target: Target; standing: Standing }) {
  const word = useGame((state) => state.parts.settings.words?.depth ?? 'depth')
  const row = standing.furthest
  return (
    <span className="text-note text-muted" data-testid="standing" title={standing.untold ?? ''}>
      {standingWords(target, standing, word)}
      {row !== null && row !== undefined && (
        <>
          , furthest off at <span className="num">{standing.depths[row]}</span>:{' '}
          <b className="num text-bad">{told(target, standing.figures[row], standing.never[row])}</b>
        </>
      )}
      {standing.untold && `: ${standing.untold}`}
      {standing.played && ', as played'}
    </span>
  )
}

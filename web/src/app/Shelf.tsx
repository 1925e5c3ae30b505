// What the game holds, in the order the work goes.
import { useState, type ReactNode } from 'react'
import { useFindings, useTargets, useTrials } from '@/api/queries'
import type { Curve, Source, Table, Target } from '@/api/types'
import { freshSource, freshTable } from '@/game/fresh'
import { freshId } from '@/game/parts'
import { commit, removePart } from '@/game/sync'
import { show, useGame, type Sheet } from '@/game/store'
import { api } from '@/api/client'
import { LeavingQuestion } from '@/sheets/items/ItemsSheet'
import { curveEntry, flatCurve } from '@/game/curves'
import { sourceEntry } from '@/sheets/source/SourceSheet'
import { tableEntry } from '@/sheets/table/lines'
import { Chevron } from '@/sheets/table/TableBlock'
import { OpenBar } from '@/plots/OpenBar'
import { addTarget, targetEntry } from '@/sheets/target/edits'
import { findingsOf } from '@/sheets/table/Notes'
import { standOf, TargetMark } from '@/ui/TargetMark'
import { Menu, type MenuEntry } from '@/ui/Menu'
import { AimMark, CurveMark, MeetsMark, SourceMark, TableMark, TierMark } from '@/ui/Marks'

type Leaving = Parameters<typeof LeavingQuestion>[0]['leaving']

export function Shelf() {
  const { parts, sheet, depth } = useGame()
  const [filter, setFilter] = useState('')
  const [leaving, setLeaving] = useState<Leaving>(null)
  const { data: trials = [] } = useTrials()
  const { data: found } = useFindings()
  const odd = (kind: string, id: string) =>
    found?.findings.filter((one) => one.kind === kind && one.id === id).map((one) => one.message)
  const fits = (name: string) => name.toLowerCase().includes(filter.trim().toLowerCase())
  const scale: [number, number] = [parts.settings.depth.from, parts.settings.depth.to]
  const shared = [...parts.curve.values()].filter(
    (curve) => !curve.private || curve.id === sheet?.id,
  )
  const items = [...parts.item.values()].filter((item) => fits(item.name))

  const remove = async (
    kind: 'table' | 'source' | 'curve' | 'target',
    part: { id: string; name: string },
  ) => {
    const uses = await api.uses(useGame.getState().id, kind, part.id)
    if (uses.length) setLeaving({ kind, id: part.id, name: part.name, uses })
    else await removePart(kind, part.id)
    if (sheet?.id === part.id) show(null)
  }

  return (
    <nav
      className="flex w-[220px] shrink-0 flex-col border-r border-hair max-[1100px]:w-[190px]"
      aria-label="shelf"
    >
      <div className="p-2.5">
        <input
          className="field w-full py-1"
          placeholder="Filter the shelf"
          aria-label="Filter the shelf"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
      </div>
      <div className="min-h-0 flex-1 overflow-auto pb-6">
        <Section name="Items" count={parts.item.size} filtered={filter !== ''} startsOpen={false}>
          <Entry
            sheet={{ kind: 'items', id: 'catalogue' }}
            name="Tiers and catalogue"
            mark={<TierMark tier={[...parts.tier.values()][0]} />}
          />
          {filter &&
            items.map((item) => (
              <Entry
                key={item.id}
                sheet={{ kind: 'item', id: item.id }}
                name={item.name}
                mark={<TierMark tier={parts.tier.get(item.tier)} />}
              />
            ))}
        </Section>
        <Section
          name="Tables"
          count={parts.table.size}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={addTable}
        >
          {[...parts.table.values()]
            .filter((table) => fits(table.name))
            .map((table) => (
              <Entry
                key={table.id}
                sheet={{ kind: 'table', id: table.id }}
                name={table.name}
                mark={<TableMark />}
                odd={odd('table', table.id)}
                menu={[
                  { label: 'Duplicate', run: () => void copyTable(table) },
                  { label: 'Delete', bad: true, run: () => void remove('table', table) },
                ]}
              />
            ))}
        </Section>
        <Section
          name="Sources"
          count={parts.source.size}
          filtered={filter !== ''}
          onAdd={addSource}
        >
          {[...parts.source.values()]
            .filter((source) => fits(source.name))
            .map((source) => (
              <Entry
                key={source.id}
                sheet={{ kind: 'source', id: source.id }}
                name={source.name}
                mark={<SourceMark kind={source.kind} />}
                odd={odd('source', source.id)}
                dim={source.depths ? depth < source.depths[0] || depth > source.depths[1] : false}
                after={<OpenBar range={source.depths ?? scale} scale={scale} depth={depth} />}
                menu={[
                  { label: 'Duplicate', run: () => void copySource(source) },
                  { label: 'Delete', bad: true, run: () => void remove('source', source) },
                ]}
              />
            ))}
          {parts.source.size === 0 && (
            <p className="label px-3 py-1">
              An enemy, a chest, a vein of ore: whatever players act on.
            </p>
          )}
        </Section>
        <Section
          name="Depth"
          count={shared.length}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={addCurve}
        >
          <Entry sheet={{ kind: 'meets', id: 'here' }} name="What is met" mark={<MeetsMark />} />
          {shared
            .filter((curve) => fits(curve.name))
            .map((curve) => (
              <Entry
                key={curve.id}
                sheet={{ kind: 'curve', id: curve.id }}
                name={curve.name}
                mark={<CurveMark curve={curve} scale={scale} />}
                menu={[
                  { label: 'Duplicate', run: () => void copyCurve(curve) },
                  { label: 'Delete', bad: true, run: () => void remove('curve', curve) },
                ]}
              />
            ))}
        </Section>
        <Targets filter={filter} fits={fits} onRemove={(target) => void remove('target', target)} />
        <Section
          name="Trials"
          count={trials.length}
          filtered={filter !== ''}
          onAdd={() => show({ kind: 'trial', id: 'new' })}
        >
          {trials
            .filter((trial) => fits(trial.name))
            .map((trial) => (
              <Entry
                key={trial.id}
                sheet={{ kind: 'trial', id: trial.id }}
                name={trial.name}
                mark={<span className="num w-4 text-right text-muted">{trial.number}</span>}
                note={trial.status === 'done' ? '' : trial.status}
              />
            ))}
          {trials.length === 0 && (
            <p className="label px-3 py-1">
              Thousands of players at once, when averages are not enough.
            </p>
          )}
        </Section>
      </div>
      <LeavingQuestion leaving={leaving} onDone={() => setLeaving(null)} />
    </nav>
  )
}

function Targets({
  filter,
  fits,
  onRemove,
}: {
  filter: string
  fits: (name: string) => boolean
  onRemove: (target: Target) => void
}) {
  const { parts } = useGame()
  return (
    <Section
      name="Targets"
      count={parts.target.size}
      filtered={filter !== ''}
      startsOpen={false}
      onAdd={() => void addTarget()}
    >
      <TargetEntries
        targets={[...parts.target.values()].filter((one) => fits(one.name))}
        onRemove={onRemove}
      />
    </Section>
  )
}

/** Their marks are asked for only while they can be seen. */
function TargetEntries({
  targets,
  onRemove,
}: {
  targets: Target[]
  onRemove: (target: Target) => void
}) {
  const { data } = useTargets()
  const { data: found } = useFindings()
  return (
    <>
      <Entry sheet={{ kind: 'targets', id: 'all' }} name="All targets" mark={<AimMark />} />
      {targets.map((target) => (
        <Entry
          key={target.id}
          sheet={{ kind: 'target', id: target.id }}
          name={target.name}
          mark={<TargetMark stand={standOf(data?.targets.find((one) => one.id === target.id))} />}
          odd={findingsOf(found?.findings, 'target', target.id).map((one) => one.message)}
          menu={[
            { label: 'Duplicate', run: () => void copyTarget(target) },
            { label: 'Delete', bad: true, run: () => onRemove(target) },
          ]}
        />
      ))}
    </>
  )
}

function Section({
  name,
  count,
  children,
  onAdd,
  filtered,
  startsOpen = true,
}: {
  name: string
  count: number
  children: ReactNode
  onAdd?: () => void
  filtered: boolean
  startsOpen?: boolean
}) {
  const [open, setOpen] = useState(startsOpen)
  const shown = open || filtered
  return (
    <section className="border-t border-hair">
      <div className="flex items-center pr-2">
        <button
          type="button"
          aria-expanded={shown}
          className="flex flex-1 items-center gap-2 px-3 py-1.5"
          onClick={() => setOpen(!open)}
        >
          <Chevron open={shown} />
          <span className="head">{name}</span>
          <span className="num ml-auto text-muted">{count}</span>
        </button>
        {onAdd && (
          <button
            type="button"
            aria-label={`new in ${name}`}
            className="px-1.5 text-[15px] leading-none text-muted hover:text-ink"
            onClick={onAdd}
          >
            +
          </button>
        )}
      </div>
      {shown && children}
    </section>
  )
}

function Entry({
  sheet,
  name,
  mark,
  after,
  note,
  dim,
  menu,
  odd,
}: {
  sheet: NonNullable<Sheet>
  name: string
  mark: ReactNode
  after?: ReactNode
  note?: string
  dim?: boolean
  menu?: MenuEntry[]
  odd?: string[]
}) {
  const current = useGame((state) => state.sheet)
  const here = current?.kind === sheet.kind && current.id === sheet.id
  return (
    <div
      className={`group relative flex h-[25px] items-center pr-2 ${here ? 'bg-raised shadow-[inset_3px_0_0_var(--color-gold)]' : 'hover:bg-raised/70'}`}
    >
      <button
        type="button"
        aria-current={here ? 'page' : undefined}
        className={`flex min-w-0 flex-1 items-center gap-2 py-0.5 pl-3 text-left ${dim ? 'text-muted' : ''}`}
        onClick={() => show(sheet)}
      >
        {mark}
        <span className={`name truncate text-[13.5px] ${here ? 'font-semibold' : ''}`}>{name}</span>
        {odd && odd.length > 0 && (
          <span
            title={odd.join('\n')}
            aria-label={`findings: ${odd.join('; ')}`}
            className="ml-auto h-1.5 w-1.5 shrink-0 rounded-full bg-waiting"
          />
        )}
        {note && <span className="label ml-auto">{note}</span>}
      </button>
      {after && <span className="group-hover:hidden">{after}</span>}
      {menu && (
        <span className="hidden group-focus-within:block group-hover:block">
          <Menu
            label={`what to do with ${name}`}
            align="end"
            trigger={
              <button type="button" className="px-1 leading-none text-muted">
                ⋯
              </button>
            }
            entries={menu}
          />
        </span>
      )}
    </div>
  )
}

async function addTable() {
  const { parts } = useGame.getState()
  const id = freshId('new table', parts.table)
  if (!(await commit('new table', [tableEntry(freshTable(id, 'New table'))])))
    show({ kind: 'table', id })
}

async function addSource() {
  const { parts } = useGame.getState()
  const id = freshId('new source', parts.source)
  if (!(await commit('new source', [sourceEntry(freshSource(id, 'New source'))])))
    show({ kind: 'source', id })
}

async function addCurve() {
  const { parts } = useGame.getState()
  const curve = flatCurve(parts, 'New curve')
  if (!(await commit('new curve', [curveEntry(curve)]))) show({ kind: 'curve', id: curve.id })
}

async function copyCurve(curve: Curve) {
  const { parts } = useGame.getState()
  const name = `${curve.name}, copy`
  const id = freshId(name, parts.curve)
  if (!(await commit(`copied ${curve.name}`, [curveEntry({ ...curve, id, name, private: false })])))
    show({ kind: 'curve', id })
}

async function copyTable(table: Table) {
  const { parts } = useGame.getState()
  const name = `${table.name}, copy`
  const id = freshId(name, parts.table)
  if (!(await commit(`copied ${table.name}`, [tableEntry({ ...table, id, name })])))
    show({ kind: 'table', id })
}

async function copyTarget(target: Target) {
  const { parts } = useGame.getState()
  const name = `${target.name}, copy`
  const id = freshId(name, parts.target)
  if (!(await commit(`copied ${target.name}`, [targetEntry({ ...target, id, name })])))
    show({ kind: 'target', id })
}

async function copySource(source: Source) {
  const { parts } = useGame.getState()
  const name = `${source.name}, copy`
  const id = freshId(name, parts.source)
  if (!(await commit(`copied ${source.name}`, [sourceEntry({ ...source, id, name })])))
    show({ kind: 'source', id })
}

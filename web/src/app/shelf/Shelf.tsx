// What the game holds, in the order the work goes.
import { useState } from 'react'
import { useFindings, useTargets, useTrials } from '@/api/queries'
import type { Target } from '@/api/types'
import { show, useGamePart } from '@/game/store'
import { OpenBar } from '@/plots/OpenBar'
import { LeavingQuestion } from '@/sheets/LeavingQuestion'
import { findingsOf } from '@/sheets/table/Notes'
import { addTarget } from '@/sheets/target/edits'
import { useRemoval } from '@/sheets/useRemoval'
import {
  AimMark,
  CurveMark,
  FlagMark,
  MeetsMark,
  RouteMark,
  SourceMark,
  TableMark,
  TierMark,
} from '@/ui/Marks'
import { standOf, TargetMark } from '@/ui/TargetMark'
import {
  addCurve,
  addFlag,
  addRoute,
  addSource,
  addTable,
  copyCurve,
  copyRoute,
  copySource,
  copySourceWithTables,
  copyTable,
  copyTarget,
} from './adding'
import { Entry } from './Entry'
import { Section } from './Section'

export function Shelf() {
  const { parts, sheet, depth } = useGamePart('parts', 'sheet', 'depth')
  const [filter, setFilter] = useState('')
  const { leaving, remove, answered } = useRemoval((kind, id) => {
    if (sheet?.kind === kind && sheet.id === id) show(null)
  })
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
        <Section
          name="Items"
          kinds={['items', 'item', 'tier']}
          count={parts.item.size}
          filtered={filter !== ''}
          startsOpen={false}
        >
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
          kinds={['table']}
          count={parts.table.size}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={() => void addTable()}
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
                  { label: 'Delete', bad: true, run: () => void remove('table', [table]) },
                ]}
              />
            ))}
        </Section>
        <Section
          name="Sources"
          kinds={['source']}
          count={parts.source.size}
          filtered={filter !== ''}
          onAdd={() => void addSource()}
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
                  {
                    label: 'Duplicate, its tables too',
                    run: () => void copySourceWithTables(source),
                  },
                  {
                    label: 'Duplicate, rolling the same tables',
                    run: () => void copySource(source),
                  },
                  { label: 'Delete', bad: true, run: () => void remove('source', [source]) },
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
          kinds={['curve', 'meets']}
          count={shared.length}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={() => void addCurve()}
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
                  { label: 'Delete', bad: true, run: () => void remove('curve', [curve]) },
                ]}
              />
            ))}
        </Section>
        <Section
          name="Flags"
          kinds={['flags']}
          count={parts.flag.size}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={() => void addFlag()}
        >
          <Entry sheet={{ kind: 'flags', id: 'all' }} name="All flags" mark={<FlagMark />} />
        </Section>
        <Targets
          filter={filter}
          fits={fits}
          onRemove={(target) => void remove('target', [target])}
        />
        <Section
          name="Routes"
          kinds={['route']}
          count={parts.route.size}
          filtered={filter !== ''}
          startsOpen={false}
          onAdd={() => void addRoute()}
        >
          {[...parts.route.values()]
            .filter((route) => fits(route.name))
            .map((route) => (
              <Entry
                key={route.id}
                sheet={{ kind: 'route', id: route.id }}
                name={route.name}
                mark={<RouteMark />}
                odd={odd('route', route.id)}
                menu={[
                  { label: 'Duplicate', run: () => void copyRoute(route) },
                  { label: 'Delete', bad: true, run: () => void remove('route', [route]) },
                ]}
              />
            ))}
          {parts.route.size === 0 && (
            <p className="label px-3 py-1">What players do in order: stops, kills, visits.</p>
          )}
        </Section>
        <Section
          name="Trials"
          kinds={['trial']}
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
      <LeavingQuestion leaving={leaving} onDone={answered} />
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
  const { parts } = useGamePart('parts')
  return (
    <Section
      name="Targets"
      kinds={['target', 'targets']}
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

// What stands on the shelf, in the order the work goes: a section for each kind of thing. A new kind is an
// entry here.
import type { ReactNode } from 'react'
import { useTargets, useTrials } from '@/game/queries'
import type { Kind, Parts } from '@/game/parts'
import { show, useGame, type Sheet } from '@/game/store'
import { OpenBar } from '@/plots/OpenBar'
import { addTarget } from '@/sheets/target/edits'
import {
  AimMark,
  CurveMark,
  FlagMark,
  KitMark,
  MeetsMark,
  PlaceMark,
  PropertyMark,
  RouteMark,
  SetMark,
  SourceMark,
  StallMark,
  TableMark,
  TierMark,
} from '@/ui/Marks'
import type { MenuEntry } from '@/ui/Menu'
import { standOf, TargetMark } from '@/ui/TargetMark'
import {
  addCurve,
  addFlag,
  addPlace,
  addRoute,
  addSet,
  addSource,
  addStall,
  addTable,
  copyCurve,
  copyRoute,
  copySource,
  copySourceWithTables,
  copyTable,
  copyTarget,
} from '@/sheets/adding'

export interface ShelfEntry {
  sheet: NonNullable<Sheet>
  name: string
  /** Asked of those that are seen. */
  look: () => EntryLook
}

export interface EntryLook {
  mark: ReactNode
  dim?: boolean
  after?: ReactNode
  note?: string
  menu?: MenuEntry[]
}

export interface Looking {
  parts: Parts
  depth: number
  /** The curve that is open is there even if it is private. */
  open: string
  filter: string
  fits: (name: string) => boolean
  remove: Remove
}

type Remove = (kind: Kind, gone: { id: string; name: string }[]) => void

export interface ShelfSection {
  name: string
  /** Of the sheets that stand in it. */
  kinds: string[]
  startsOpen?: boolean
  onAdd?: () => void
  count: (parts: Parts) => number
  /** What is always there, and what is there of the game. */
  fixed?: ShelfEntry[]
  entries?: (looking: Looking) => ShelfEntry[]
  /** A hook, where something has to be asked for first: only done while they can be seen. */
  useEntries?: (looking: Looking) => ShelfEntry[]
  empty?: string
}

export const SECTIONS: ShelfSection[] = [
  {
    name: 'Items',
    kinds: ['items', 'item', 'tier'],
    count: (parts) => parts.item.size,
    fixed: [
      {
        sheet: { kind: 'items', id: 'catalogue' },
        name: 'Tiers and catalogue',
        look: () => ({ mark: <FirstTier /> }),
      },
    ],
    // There are too many to stand there all the time.
    entries: ({ parts, filter, fits }) =>
      filter
        ? [...parts.item.values()]
            .filter((item) => fits(item.name))
            .map((item) => ({
              sheet: { kind: 'item', id: item.id },
              name: item.name,
              look: () => ({ mark: <TierMark tier={parts.tier.get(item.tier)} /> }),
            }))
        : [],
  },
  {
    name: 'Tables',
    kinds: ['table'],
    onAdd: () => void addTable(),
    count: (parts) => parts.table.size,
    entries: ({ parts, remove }) =>
      [...parts.table.values()].map((table) => ({
        sheet: { kind: 'table', id: table.id },
        name: table.name,
        look: () => ({
          mark: <TableMark />,
          menu: [
            { label: 'Duplicate', run: () => void copyTable(table) },
            { label: 'Delete', bad: true, run: () => remove('table', [table]) },
          ],
        }),
      })),
  },
  {
    name: 'Sources',
    kinds: ['source'],
    startsOpen: true,
    onAdd: () => void addSource(),
    count: (parts) => parts.source.size,
    empty: 'An enemy, a chest, a vein of ore: whatever players act on.',
    entries: sources,
  },
  {
    name: 'Places',
    kinds: ['place'],
    onAdd: () => void addPlace(),
    count: (parts) => parts.place.size,
    empty: 'Fixed spots, and what may lie there: a market, a wreck, a meadow.',
    entries: ({ parts, remove }) =>
      [...parts.place.values()].map((one) => ({
        sheet: { kind: 'place', id: one.id },
        name: one.name,
        look: () => ({
          mark: <PlaceMark />,
          menu: [{ label: 'Delete', bad: true, run: () => remove('place', [one]) }],
        }),
      })),
  },
  {
    name: 'Depth',
    kinds: ['curve', 'meets'],
    onAdd: () => void addCurve(),
    count: (parts) => [...parts.curve.values()].filter((curve) => !curve.private).length,
    fixed: [
      {
        sheet: { kind: 'meets', id: 'here' },
        name: 'What is met',
        look: () => ({ mark: <MeetsMark /> }),
      },
    ],
    entries: ({ parts, open, remove }) =>
      [...parts.curve.values()]
        .filter((curve) => !curve.private || curve.id === open)
        .map((curve) => ({
          sheet: { kind: 'curve', id: curve.id },
          name: curve.name,
          look: () => ({
            mark: <CurveMark curve={curve} scale={scaleOf(parts)} />,
            menu: [
              { label: 'Duplicate', run: () => void copyCurve(curve) },
              { label: 'Delete', bad: true, run: () => remove('curve', [curve]) },
            ],
          }),
        })),
  },
  {
    name: 'Flags',
    kinds: ['flags'],
    onAdd: () => void addFlag(),
    count: (parts) => parts.flag.size,
    fixed: [
      {
        sheet: { kind: 'flags', id: 'all' },
        name: 'All flags',
        look: () => ({ mark: <FlagMark /> }),
      },
    ],
  },
  {
    name: 'Sets',
    kinds: ['kit', 'set', 'property'],
    onAdd: () => void addSet(),
    count: (parts) => parts.set.size + parts.property.size,
    fixed: [
      { sheet: { kind: 'kit', id: 'all' }, name: 'Kit', look: () => ({ mark: <KitMark /> }) },
    ],
    entries: ({ parts, remove }) => [
      ...[...parts.set.values()].map((one) => ({
        sheet: { kind: 'set' as const, id: one.id },
        name: one.name,
        look: () => ({
          mark: <SetMark />,
          menu: [{ label: 'Delete', bad: true, run: () => remove('set', [one]) }],
        }),
      })),
      ...[...parts.property.values()].map((one) => ({
        sheet: { kind: 'property' as const, id: one.id },
        name: one.name,
        look: () => ({
          mark: <PropertyMark />,
          menu: [{ label: 'Delete', bad: true, run: () => remove('property', [one]) }],
        }),
      })),
    ],
  },
  {
    name: 'Routes',
    kinds: ['route'],
    onAdd: () => void addRoute(),
    count: (parts) => parts.route.size,
    empty: 'What players do in order: stops, kills, visits.',
    entries: ({ parts, remove }) =>
      [...parts.route.values()].map((route) => ({
        sheet: { kind: 'route', id: route.id },
        name: route.name,
        look: () => ({
          mark: <RouteMark />,
          menu: [
            { label: 'Duplicate', run: () => void copyRoute(route) },
            { label: 'Delete', bad: true, run: () => remove('route', [route]) },
          ],
        }),
      })),
  },
  {
    name: 'Stalls',
    kinds: ['stall'],
    onAdd: () => void addStall(),
    count: (parts) => parts.stall.size,
    empty: 'What is on sale today, the same for everybody.',
    entries: ({ parts, remove }) =>
      [...parts.stall.values()].map((one) => ({
        sheet: { kind: 'stall', id: one.id },
        name: one.name,
        look: () => ({
          mark: <StallMark />,
          menu: [{ label: 'Delete', bad: true, run: () => remove('stall', [one]) }],
        }),
      })),
  },
  {
    name: 'Targets',
    kinds: ['target', 'targets'],
    onAdd: () => void addTarget(),
    count: (parts) => parts.target.size,
    fixed: [
      {
        sheet: { kind: 'targets', id: 'all' },
        name: 'All targets',
        look: () => ({ mark: <AimMark /> }),
      },
    ],
    useEntries: useTargetEntries,
  },
  {
    name: 'Trials',
    kinds: ['trial'],
    startsOpen: true,
    onAdd: () => show({ kind: 'trial', id: 'new' }),
    count: () => 0, // the server's to tell: see `useCount`
    useEntries: useTrialEntries,
    empty: 'Thousands of players at once, when averages are not enough.',
  },
]

/** How many there are of a section; of trials what the server says. */
export function useCount(section: ShelfSection): number {
  const parts = useGame((state) => state.parts)
  const { data: trials = [] } = useTrials()
  return section.name === 'Trials' ? trials.length : section.count(parts)
}

const scaleOf = (parts: Parts): [number, number] => [
  parts.settings.depth.from,
  parts.settings.depth.to,
]

function FirstTier() {
  const tiers = useGame((state) => state.parts.tier)
  return <TierMark tier={tiers.values().next().value} />
}

function sources({ parts, depth, remove }: Looking): ShelfEntry[] {
  const scale = scaleOf(parts)
  return [...parts.source.values()].map((source) => ({
    sheet: { kind: 'source', id: source.id },
    name: source.name,
    look: () => ({
      mark: <SourceMark kind={source.kind} />,
      dim: source.depths ? depth < source.depths[0] || depth > source.depths[1] : false,
      after: <OpenBar range={source.depths ?? scale} scale={scale} depth={depth} />,
      menu: [
        { label: 'Duplicate, its tables too', run: () => void copySourceWithTables(source) },
        { label: 'Duplicate, rolling the same tables', run: () => void copySource(source) },
        { label: 'Delete', bad: true, run: () => remove('source', [source]) },
      ],
    }),
  }))
}

function useTargetEntries({ parts, remove }: Looking): ShelfEntry[] {
  const { data } = useTargets()
  return [...parts.target.values()].map((target) => ({
    sheet: { kind: 'target', id: target.id },
    name: target.name,
    look: () => ({
      mark: <TargetMark stand={standOf(data?.targets.find((one) => one.id === target.id))} />,
      menu: [
        { label: 'Duplicate', run: () => void copyTarget(target) },
        { label: 'Delete', bad: true, run: () => remove('target', [target]) },
      ],
    }),
  }))
}

function useTrialEntries(): ShelfEntry[] {
  const { data: trials = [] } = useTrials()
  return trials.map((trial) => ({
    sheet: { kind: 'trial', id: trial.id },
    name: trial.name,
    look: () => ({
      mark: <span className="num w-4 text-right text-muted">{trial.number}</span>,
      note: trial.status === 'done' ? (trial.pinned ? 'pinned' : '') : trial.status,
    }),
  }))
}

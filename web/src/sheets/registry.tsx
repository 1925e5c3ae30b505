// Every kind of sheet: what shows it, what stands beside it, how it is found. A new one is a folder, a name
// in `kinds` and a line here.
import type { ComponentType, ReactNode } from 'react'
import { later } from '@/ui/later'
import { freshlyMade } from './adding'
import type { Parts } from '@/game/parts'
import {
  AimMark,
  CurveMark,
  PlaceMark,
  PropertyMark,
  RouteMark,
  SetMark,
  SourceMark,
  StallMark,
  TableMark,
  TierMark,
} from '@/ui/Marks'
import { show } from '@/game/store'
import type { SheetKind } from '@/game/kinds'
import type { Asking } from '@/game/queries'

const Reading = later(async () => (await import('@/sheets/reading/Reading')).Reading)
const CurveSheet = later(async () => (await import('./curve/CurveSheet')).CurveSheet)
const DepthSheet = later(async () => (await import('./depth/DepthSheet')).DepthSheet)
const MeetsSheet = later(async () => (await import('./depth/MeetsSheet')).MeetsSheet)
const ExchangeSheet = later(async () => (await import('./exchange/ExchangeSheet')).ExchangeSheet)
const FlagsSheet = later(async () => (await import('./flags/FlagsSheet')).FlagsSheet)
const GuideSheet = later(async () => (await import('./guide/GuideSheet')).GuideSheet)
const HistorySheet = later(async () => (await import('./history/HistorySheet')).HistorySheet)
const ItemSheet = later(async () => (await import('./item/ItemSheet')).ItemSheet)
const TierSheet = later(async () => (await import('./item/TierSheet')).TierSheet)
const ItemsSheet = later(async () => (await import('./items/ItemsSheet')).ItemsSheet)
const KitSheet = later(async () => (await import('./kept/KitSheet')).KitSheet)
const PropertySheet = later(async () => (await import('./kept/PropertySheet')).PropertySheet)
const SetSheet = later(async () => (await import('./kept/SetSheet')).SetSheet)
const LogSheet = later(async () => (await import('./log/LogSheet')).LogSheet)
const OverviewSheet = later(async () => (await import('./overview/OverviewSheet')).OverviewSheet)
const PlaceSheet = later(async () => (await import('./place/PlaceSheet')).PlaceSheet)
const RouteReading = later(async () => (await import('./route/RouteReading')).RouteReading)
const RouteSheet = later(async () => (await import('./route/RouteSheet')).RouteSheet)
const SourceSheet = later(async () => (await import('./source/SourceSheet')).SourceSheet)
const StallSheet = later(async () => (await import('./stall/StallSheet')).StallSheet)
const TableSheet = later(async () => (await import('./table/TableSheet')).TableSheet)
const TargetSheet = later(async () => (await import('./target/TargetSheet')).TargetSheet)
const TargetsSheet = later(async () => (await import('./target/TargetsSheet')).TargetsSheet)
const ReplayTray = later(async () => (await import('./trial/TrialSheet')).ReplayTray)
const TrialReading = later(async () => (await import('./trial/TrialSheet')).TrialReading)
const TrialSheet = later(async () => (await import('./trial/TrialSheet')).TrialSheet)

export interface SheetEntry {
  /** `fell`: where the last roll of each table fell. */
  Sheet: ComponentType<{ id: string; fell: Map<string, number> }>
  /** The same along all depths, where there is that. */
  Along?: ComponentType
  /** What stands to the right of it. */
  Beside?: ComponentType<{ id: string }>
  /** Its plots over depth take the height of the plumb line, so there is no tray below it. */
  isDeep?: boolean
  /** What its numbers come from, where that is not the odds of one depth. */
  asks?: Asking
  /** A tray of its own; or it can be rolled in the tray that there is. */
  Tray?: ComponentType<{ id: string }>
  isRolled?: boolean
  /** A sheet of one of many things: how they are called, and found by name. */
  found?: { heading: string; things: (parts: Parts) => Found }
  /** What can be done from anywhere: go there, or make one. */
  doings?: { name: string; also?: string[]; run: () => void }[]
}

export interface Found {
  list: { id: string; name: string }[]
  /** Made of those alone that are shown: there may be thousands. */
  markOf: (id: string) => ReactNode
}

export const SHEETS: Record<SheetKind, SheetEntry> = {
  overview: {
    Sheet: OverviewSheet,
    asks: 'overview',
    doings: [
      {
        name: 'Overview: the whole game on one sheet',
        run: () => show({ kind: 'overview', id: 'all' }),
      },
    ],
  },
  source: {
    Sheet: SourceSheet,
    Along: DepthSheet,
    Beside: Reading,
    isRolled: true,
    found: {
      heading: 'Sources',
      things: (parts) => found(parts.source, (one) => <SourceMark kind={one.kind} />),
    },
    doings: [freshlyMade('source')],
  },
  table: {
    Sheet: TableSheet,
    Along: DepthSheet,
    Beside: Reading,
    isRolled: true,
    found: { heading: 'Tables', things: (parts) => found(parts.table, () => <TableMark />) },
    doings: [freshlyMade('table')],
  },
  item: {
    Sheet: ItemSheet,
    found: {
      heading: 'Items',
      things: (parts) => found(parts.item, (one) => <TierMark tier={parts.tier.get(one.tier)} />),
    },
    doings: [freshlyMade('item')],
  },
  items: { Sheet: ItemsSheet },
  tier: {
    Sheet: TierSheet,
    found: {
      heading: 'Tiers',
      things: (parts) => found(parts.tier, (one) => <TierMark tier={one} />),
    },
  },
  curve: {
    Sheet: CurveSheet,
    Beside: Reading,
    isDeep: true,
    found: { heading: 'Curves', things: curvesFound },
    doings: [freshlyMade('curve')],
  },
  meets: { Sheet: MeetsSheet, asks: 'meets' },
  flags: { Sheet: FlagsSheet, doings: [freshlyMade('flag')] },
  target: {
    Sheet: TargetSheet,
    isDeep: true,
    asks: 'targets',
    found: { heading: 'Targets', things: (parts) => found(parts.target, () => <AimMark />) },
    doings: [freshlyMade('target')],
  },
  targets: { Sheet: TargetsSheet, isDeep: true, asks: 'targets' },
  route: {
    Sheet: RouteSheet,
    Beside: RouteReading,
    isDeep: true,
    asks: 'route',
    found: { heading: 'Routes', things: (parts) => found(parts.route, () => <RouteMark />) },
    doings: [freshlyMade('route')],
  },
  place: {
    Sheet: PlaceSheet,
    asks: 'place',
    found: { heading: 'Places', things: (parts) => found(parts.place, () => <PlaceMark />) },
    doings: [freshlyMade('place')],
  },
  stall: {
    Sheet: StallSheet,
    asks: 'stall',
    found: { heading: 'Stalls', things: (parts) => found(parts.stall, () => <StallMark />) },
    doings: [freshlyMade('stall')],
  },
  kit: { Sheet: KitSheet, asks: 'kept' },
  set: {
    Sheet: SetSheet,
    asks: 'kept',
    found: { heading: 'Sets', things: (parts) => found(parts.set, () => <SetMark />) },
    doings: [freshlyMade('set')],
  },
  property: {
    Sheet: PropertySheet,
    asks: 'kept',
    found: {
      heading: 'Properties',
      things: (parts) => found(parts.property, () => <PropertyMark />),
    },
    doings: [freshlyMade('property')],
  },
  trial: { Sheet: TrialSheet, Beside: TrialReading, Tray: ReplayTray },
  exchange: {
    Sheet: ExchangeSheet,
    doings: [
      {
        name: 'Bring in a spreadsheet',
        also: ['import', 'paste items'],
        run: () => show({ kind: 'exchange', id: 'all' }),
      },
      {
        name: 'Export for others',
        also: ['odds for players', 'thresholds', 'code', 'vectors', 'workbook'],
        run: () => show({ kind: 'exchange', id: 'all' }),
      },
    ],
  },
  log: {
    Sheet: LogSheet,
    doings: [
      {
        name: 'Hold a log against the game',
        also: ['telemetry', 'real players', 'drop log'],
        run: () => show({ kind: 'log', id: 'all' }),
      },
    ],
  },
  history: {
    Sheet: HistorySheet,
    doings: [
      {
        name: 'History',
        also: ['revisions', 'versions', 'what changed'],
        run: () => show({ kind: 'history', id: 'all' }),
      },
    ],
  },
  guide: {
    Sheet: GuideSheet,
    doings: [
      {
        name: 'Read the guide',
        also: ['help', 'manual', 'documentation'],
        run: () => show({ kind: 'guide', id: 'guide' }),
      },
    ],
  },
}

function found<T extends { id: string; name: string }>(
  things: Map<string, T>,
  mark: (one: T) => ReactNode,
): Found {
  const markOf = (id: string) => {
    const one = things.get(id)
    return one && mark(one)
  }
  return { list: [...things.values()], markOf }
}

function curvesFound(parts: Parts): Found {
  const { from, to } = parts.settings.depth
  return found(parts.curve, (one) => <CurveMark curve={one} scale={[from, to]} />)
}

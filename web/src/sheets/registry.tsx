// Every kind of sheet: what shows it, what stands beside it, how it is found. A new one is a folder, a name
// in `kinds` and a line here.
import type { ComponentType, ReactNode } from 'react'
import { freshlyMade } from '@/app/shelf/adding'
import type { Parts } from '@/game/parts'
import { Reading } from '@/reading/Reading'
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
import { CurveSheet } from './curve/CurveSheet'
import { DepthSheet } from './depth/DepthSheet'
import { MeetsSheet } from './depth/MeetsSheet'
import { ExchangeSheet } from './exchange/ExchangeSheet'
import { FlagsSheet } from './flags/FlagsSheet'
import { show } from '@/game/store'
import { GuideSheet } from './guide/GuideSheet'
import { HistorySheet } from './history/HistorySheet'
import { ItemSheet } from './item/ItemSheet'
import { TierSheet } from './item/TierSheet'
import { ItemsSheet } from './items/ItemsSheet'
import { KitSheet } from './kept/KitSheet'
import { PropertySheet } from './kept/PropertySheet'
import { SetSheet } from './kept/SetSheet'
import type { SheetKind } from './kinds'
import { LogSheet } from './log/LogSheet'
import { PlaceSheet } from './place/PlaceSheet'
import { RouteReading } from './route/RouteReading'
import { RouteSheet } from './route/RouteSheet'
import type { Asking } from '@/api/queries'
import { SourceSheet } from './source/SourceSheet'
import { StallSheet } from './stall/StallSheet'
import { TableSheet } from './table/TableSheet'
import { TargetSheet } from './target/TargetSheet'
import { TargetsSheet } from './target/TargetsSheet'
import { ReplayTray, TrialReading, TrialSheet } from './trial/TrialSheet'

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
  found?: { heading: string; things: (parts: Parts) => Found[] }
  /** What can be done from anywhere: go there, or make one. */
  doings?: { name: string; run: () => void }[]
}

export interface Found {
  id: string
  name: string
  mark: ReactNode
}

export const SHEETS: Record<SheetKind, SheetEntry> = {
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
      { name: 'Bring in a spreadsheet', run: () => show({ kind: 'exchange', id: 'all' }) },
      { name: 'Export for others', run: () => show({ kind: 'exchange', id: 'all' }) },
    ],
  },
  log: {
    Sheet: LogSheet,
    doings: [{ name: 'Hold a log against the game', run: () => show({ kind: 'log', id: 'all' }) }],
  },
  history: {
    Sheet: HistorySheet,
    doings: [{ name: 'History', run: () => show({ kind: 'history', id: 'all' }) }],
  },
  guide: {
    Sheet: GuideSheet,
    doings: [{ name: 'Read the guide', run: () => show({ kind: 'guide', id: 'guide' }) }],
  },
}

function found<T extends { id: string; name: string }>(
  things: Map<string, T>,
  mark: (one: T) => ReactNode,
): Found[] {
  return [...things.values()].map((one) => ({ id: one.id, name: one.name, mark: mark(one) }))
}

function curvesFound(parts: Parts): Found[] {
  const { from, to } = parts.settings.depth
  return found(parts.curve, (one) => <CurveMark curve={one} scale={[from, to]} />)
}

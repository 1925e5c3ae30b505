// The names of all sheets: the word in their address.
export const SHEET_KINDS = [
  'overview',
  'source',
  'table',
  'item',
  'items',
  'tier',
  'curve',
  'meets',
  'flags',
  'target',
  'targets',
  'route',
  'place',
  'stall',
  'kit',
  'set',
  'property',
  'trial',
  'guide',
  'exchange',
  'log',
  'history',
] as const

export type SheetKind = (typeof SHEET_KINDS)[number]

// The column of a table of items: each by its mark and name.
import type { Item } from '@/api/types'
import type { Parts } from '@/game/parts'
import { TierNamed } from '../Marks'
import type { DataColumn } from './DataTable'

export function itemColumn<Row extends { id: string; item: Item | undefined }>(
  parts: Parts,
  head: string,
): DataColumn<Row> {
  return {
    id: 'item',
    head,
    align: 'left',
    value: (row) => row.item?.name ?? row.id,
    cell: (row) => (
      <TierNamed
        tier={parts.tier.get(row.item?.tier ?? '')}
        name={row.item?.name ?? row.id}
        small
      />
    ),
  }
}

// Rows in another order, or fewer, or more.

/** A stretch of rows, so many places on; null where there is no room. */
export function shifted<Row>(rows: Row[], top: number, bottom: number, by: number): Row[] | null {
  if (top + by < 0 || bottom + by >= rows.length) return null
  const next = [...rows]
  next.splice(top + by, 0, ...next.splice(top, bottom - top + 1))
  return next
}

export function without<Row>(rows: Row[], top: number, bottom: number): Row[] {
  return rows.filter((_, row) => row < top || row > bottom)
}

/** One more, behind another. */
export function inserted<Row>(rows: Row[], made: Row, behind: number): Row[] {
  return [...rows.slice(0, behind + 1), made, ...rows.slice(behind + 1)]
}

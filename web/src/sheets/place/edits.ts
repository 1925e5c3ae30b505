// Edits of places: pure.
import type { Cover, Place, Spot } from '@/api/types'
import { freshId } from '@/game/parts'

export type Cells = Set<string>
export const cell = (x: number, y: number) => `${x},${y}`

/** The cells of a cover. */
export function cellsOf(cover: Cover): Cells {
  const found: Cells = new Set()
  cover.rows.forEach((row, y) => {
    for (let x = 0; x < row.length; x += 1) if (row[x] === '#') found.add(cell(x, y))
  })
  return found
}

export function rowsOf([columns, rows]: [number, number], cells: Cells): string[] {
  return Array.from({ length: rows }, (_, y) =>
    Array.from({ length: columns }, (_, x) => (cells.has(cell(x, y)) ? '#' : '.')).join(''),
  )
}

export function withCover(place: Place, id: string, changed: Partial<Cover>): Place {
  const covers = place.covers.map((one) => (one.id === id ? { ...one, ...changed } : one))
  return { ...place, covers }
}

/** With cells under a cover, or from under it. */
export function painted(place: Place, id: string, cells: [number, number][], on: boolean): Place {
  const cover = place.covers.find((one) => one.id === id)
  if (!cover) return place
  const next = cellsOf(cover)
  for (const [x, y] of cells) {
    if (on) next.add(cell(x, y))
    else next.delete(cell(x, y))
  }
  return withCover(place, id, { rows: rowsOf(place.size, next) })
}

export function newCover(place: Place): Cover {
  const taken = new Set(place.covers.map((one) => one.id))
  const id = freshId('cover', taken)
  const name = `Cover ${place.covers.length + 1}`
  return { id, name, tags: [], items: [], sources: [], rows: rowsOf(place.size, new Set()) }
}

/** With a spot in a cell, or without the one that is there. */
export function toggledSpots(place: Place, cells: [number, number][], on: boolean): Place {
  const at = new Set(cells.map(([x, y]) => cell(x, y)))
  const kept = place.spots.filter((spot) => on || !at.has(cell(spot.x, spot.y)))
  const held = new Set(kept.map((spot) => cell(spot.x, spot.y)))
  const taken = new Set(kept.map((spot) => spot.id))
  const made: Spot[] = []
  for (const [x, y] of on ? cells : []) {
    if (held.has(cell(x, y))) continue
    const id = freshId(`spot ${kept.length + made.length + 1}`, taken)
    taken.add(id)
    held.add(cell(x, y))
    made.push({ id, name: '', x, y, kinds: [] })
  }
  return { ...place, spots: [...kept, ...made] }
}

/** A plan of another size: what lies outside goes. */
export function resized(place: Place, [columns, rows]: [number, number]): Place {
  return {
    ...place,
    size: [columns, rows],
    spots: place.spots.filter((spot) => spot.x < columns && spot.y < rows),
    covers: place.covers.map((cover) => ({
      ...cover,
      rows: rowsOf([columns, rows], cellsOf(cover)),
    })),
  }
}

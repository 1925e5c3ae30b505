// Ids follow names until something knows them: what was made as “New item” gets the id of its first own name,
// where nothing else in the game names it yet. After that an id stays: exports, logs and trials know it.
import { change, edit, type Answer } from './edit'
import { freshId, KINDS, type BodyOf, type Kind, type Parts } from './parts'
import { show, useGame } from './store'

/** An id that says only that something was made. */
const PROVISIONAL =
  /^(new-(item|tier|table|source|curve|route|place|stall|set|property|target|flag)|tier|flag)(-\d+)?$/

export function isProvisional(parts: Parts, kind: Kind, id: string): boolean {
  return PROVISIONAL.test(id) && !isNamedElsewhere(parts, kind, id)
}

function isNamedElsewhere(parts: Parts, kind: Kind, id: string): boolean {
  const quoted = JSON.stringify(id)
  const names = (body: unknown) => JSON.stringify(body).includes(quoted)
  if (names(parts.settings)) return true
  return KINDS.some((one) =>
    [...parts[one].values()].some((body) => !(one === kind && body.id === id) && names(body)),
  )
}

/** Give a thing a name, and the id that goes with it where it has none of its own yet. */
export function rename<K extends Kind>(kind: K, id: string, name: string): Answer {
  const { parts } = useGame.getState()
  const own = freshId(name.trim(), parts[kind])
  if (!name.trim() || !isProvisional(parts, kind, id))
    return change(kind, id, 'renamed', { name: name.trim() } as Partial<BodyOf<K>>)
  const answer = edit(`named ${name.trim()}`, (game) => {
    const bodies = [...game[kind].entries()] as [string, BodyOf<Kind>][]
    const list = game[kind] as Map<string, BodyOf<Kind>>
    list.clear()
    for (const [key, body] of bodies)
      if (key === id) list.set(own, { ...body, id: own, name: name.trim() })
      else list.set(key, body)
  })
  const { sheet, id: open } = useGame.getState()
  if (sheet?.kind === kind && sheet.id === id) {
    show({ kind, id: own } as typeof sheet, false)
    history.replaceState(null, '', `/g/${open}/${kind}/${own}`)
  }
  return answer
}

/** Rows of a list with the ids of their first own names, what was made as “New …” having none yet. */
export function withOwnIds<Row extends { id: string; name: string }>(
  kind: Kind,
  changed: (rows: Row[]) => Row[],
): (rows: Row[]) => Row[] {
  return (rows) => {
    const { parts } = useGame.getState()
    const before = new Map(rows.map((row) => [row.id, row.name]))
    const taken = new Set(rows.map((row) => row.id))
    return changed(rows).map((row) => {
      const was = before.get(row.id)
      const isNamed = was !== undefined ? was !== row.name : !/^New /.test(row.name)
      if (!isNamed || !isProvisional(parts, kind, row.id)) return row
      const id = freshId(row.name, taken)
      taken.add(id)
      return { ...row, id }
    })
  }
}

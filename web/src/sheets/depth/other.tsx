// What a depth sheet is compared with: nothing, the same thing at another depth, or another source or
// table at the same depth.
import { useState } from 'react'
import { useDepths } from '@/game/queries'
import type { DepthSheet, View } from '@/api/types'
import { useGamePart } from '@/game/store'
import { Choice } from '@/ui/Choice'
import { EditText } from '@/ui/EditText'
import { typedDepth } from '@/text/format'
import type { Side } from './CompareRows'
import type { Figure } from './figures'

interface Other {
  on: boolean
  view: View | null
  data: DepthSheet | undefined
  /** How many of its events there are in an hour. */
  perHour: number
  side: Side | null
  choice: React.ReactNode
}

const NOTHING = ''
const DEPTH = 'depth'

export function useOther(figure: Figure): Other {
  const { parts, sheet, depth } = useGamePart('parts', 'sheet', 'depth')
  const [chosen, setChosen] = useState(NOTHING)
  const { from, to } = parts.settings.depth
  const [at, setAt] = useState(to)
  const view = viewOf(chosen)
  const swings = figure === 'cv'
  const own = useDepths({ swings })
  const { data } = useDepths({ of: view, swings })
  const word = parts.settings.words?.depth ?? 'depth'
  const part = view?.kind === 'source' ? parts.source.get(view.id) : parts.table.get(view?.id ?? '')
  const perHour = data?.per_hour ?? 1
  const kind = sheet?.kind === 'source' ? 'source' : 'table'
  const options = Object.fromEntries(
    [...parts[kind].values()]
      .filter((one) => one.id !== sheet?.id)
      .map((one) => [`${kind}/${one.id}`, one.name]),
  )
  function sideOf(): Side | null {
    if (chosen === DEPTH && own.data)
      return { name: `at ${at}`, sheet: own.data, perHour: own.data.per_hour ?? 1, depth: at }
    if (!view || !data || !part) return null
    return { name: `${part.name} at ${depth}`, sheet: data, perHour, depth }
  }

  return {
    on: chosen !== NOTHING,
    view,
    data: view ? data : undefined,
    perHour,
    side: sideOf(),
    choice: (
      <>
        beside{' '}
        <Choice
          label="compare with"
          value={chosen}
          options={{ [NOTHING]: 'nothing', [DEPTH]: `another ${word}`, ...options }}
          onChange={setChosen}
        />
        {chosen === DEPTH && (
          <EditText
            label={`the other ${word}`}
            text={String(at)}
            className="choice num ml-1 text-ink"
            onCommit={(text) => {
              const typed = typedDepth(text, [from, to])
              if (typeof typed === 'string') return { message: typed }
              setAt(typed)
              return null
            }}
          />
        )}
      </>
    ),
  }
}

function viewOf(chosen: string): View | null {
  const [kind, id] = chosen.split('/')
  return id && (kind === 'source' || kind === 'table') ? { kind, id } : null
}

// A place: its plan, what may lie where, how many of each, and what is there for whoever comes back.
import { Pending } from '@/ui/Pending'
import { useMemo, useState } from 'react'
import { usePlace } from '@/game/queries'
import type { Place, PlaceOut } from '@/api/types'
import { FlagBar } from '@/sheets/FlagBar'
import type { Parts } from '@/game/parts'
import { setDepth, useGamePart } from '@/game/store'
import { nameOfLine } from '@/game/words'
import { Findings } from '@/sheets/Findings'
import { Title } from '@/sheets/Title'
import { Notes } from '@/ui/Notes'
import { Back } from './Back'
import { Covers } from './Covers'
import { change } from '@/game/edit'
import { painted, toggledSpots } from './edits'
import { Plan, type Tool } from './Plan'
import { PictureChoice, usePicture } from './Picture'
import { Sentence } from './Sentence'
import { ItemsTold, LinesTold } from './Told'
import { SpotFacts } from './SpotFacts'

export function PlaceSheet({ id }: { id: string }) {
  const { parts } = useGamePart('parts')
  const [every, setEvery] = useState(600)
  const [seed, setSeed] = useState<number | null>(null)
  const [tool, setTool] = useState<Tool>({ kind: 'spots' })
  const [line, setLine] = useState<string | null>(null)
  const [chosen, setChosen] = useState<string | null>(null)
  const told = usePlace(id, every, seed)
  const { data } = told
  const short = useMemo(() => shortOf(data), [data])
  const { laid, faint, setFaint } = usePicture(id)
  const place = parts.place.get(id)
  if (!place) return <p className="p-6 text-muted">This place is gone.</p>
  const stock = parts.table.get(place.stock)
  const named = (of: string) => nameOfLine(parts, stock, of)
  const paint = (cells: [number, number][], on: boolean) => {
    if (tool.kind === 'spots') {
      void change('place', id, on ? 'spots' : 'spots taken out', (now) =>
        toggledSpots(now, cells, on),
      )
      return
    }
    void change('place', id, 'painted', (now) => painted(now, tool.id, cells, on))
  }
  return (
    <div
      className="px-5 pb-10 pt-3"
      onKeyDown={(event) => {
        if (event.key !== 'r' || (event.target as HTMLElement).closest('input, textarea, select'))
          return
        setSeed((now) => (now ?? 0) + 1)
        event.stopPropagation()
      }}
    >
      <header className="border-b border-hair pb-2">
        <Title
          of="place"
          id={id}
          name={place.name}
          onRename={(name) => change('place', place.id, 'renamed', { name })}
        />
        <Sentence place={place} />
        <div className="flex items-baseline gap-4 text-note text-muted">
          <FlagBar />
          <Where place={place} />
        </div>
      </header>
      <Findings kind="place" id={id} />
      {!data && <Pending of={told} what="what lies here" />}
      <div className="flex flex-wrap gap-6 pt-3">
        <div>
          <Covers place={place} tool={tool} onTool={setTool} />
          <Plan
            {...{ place, parts, tool, line, chosen, laid }}
            short={short.spots}
            told={data}
            colourOf={(of) => tierColour(parts, place, of)}
            nameOf={named}
            onPaint={paint}
            onChoose={setChosen}
          />
          {short.lines.length > 0 && (
            <p className="text-note text-waiting">
              ◤ too few spots for {short.lines.map(named).join(', ')}
            </p>
          )}
          <p className="flex items-baseline gap-3 text-note">
            <button
              type="button"
              className="plain-button"
              onClick={() => setSeed((now) => (now ?? 0) + 1)}
            >
              {seed === null ? 'set out once' : 'set out again'} <span className="num">R</span>
            </button>
            {seed !== null && (
              <button type="button" className="label hover:text-ink" onClick={() => setSeed(null)}>
                show the chances
              </button>
            )}
            <span className="label">
              {data && (data.method === 'exact' ? 'exact' : `${data.runs ?? ''} settings-out`)}
            </span>
            <PictureChoice place={id} laid={laid} faint={faint} onFaint={setFaint} />
          </p>
          <SpotFacts place={place} spot={chosen} onGone={() => setChosen(null)} />
        </div>
        <div className="min-w-[300px] flex-1">
          <LinesTold {...{ place, data, line }} nameOf={named} onLine={setLine} />
          <Back place={place} data={data} every={every} onEvery={setEvery} />
          <ItemsTold parts={parts} data={data} name={place.name} id={place.id} />
        </div>
      </div>
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the place"
          text={place.notes}
          onCommit={(notes) => change('place', place.id, 'notes', { notes })}
        />
      </div>
    </div>
  )
}

const LITTLE = 0.005 // of a thing: fewer than that are no lack

/** Lines of which not all find a spot, and the spots at which these may lie. */
function shortOf(data: PlaceOut | undefined): { lines: string[]; spots: Set<string> } {
  const lines = Object.entries(data?.lines ?? {})
    .filter(([, { wanted, placed }]) => placed < wanted - LITTLE)
    .map(([line]) => line)
  const spots = Object.entries(data?.spots ?? {})
    .filter(([, chances]) => lines.some((line) => (chances[line] ?? 0) > 0))
    .map(([spot]) => spot)
  return { lines, spots: new Set(spots) }
}

/** The depth in view may be one where the place is not. */
function Where({ place }: { place: Place }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  if (!place.depths || (place.depths[0] <= depth && depth <= place.depths[1])) return null
  const word = parts.settings.words?.depth ?? 'depth'
  return (
    <button type="button" className="text-waiting" onClick={() => setDepth(place.depths?.[0] ?? 1)}>
      as it would be at {word} {depth}, where it is not; go to {place.depths[0]}
    </button>
  )
}

/** The colour of what a line gives first. */
function tierColour(parts: Parts, place: Place, line: string): string {
  const found = parts.table.get(place.stock)?.lines.find((one) => one.id === line)
  const given = found?.yields[0]
  const tier = given?.item
    ? parts.item.get(given.item)?.tier
    : given?.pool?.tiers.length === 1
      ? given.pool.tiers[0]
      : undefined
  return parts.tier.get(tier ?? '')?.colour ?? '#12312c'
}

// Where an item, or a tier, is found: in words, and any figure of it by source and depth.
import type { ReactNode } from 'react'
import type { Tier, TierView } from '@/api/types'
import { show, useGame, useGamePart } from '@/game/store'
import { useDepthScale } from '@/plots/DepthFrame'
import { DepthLines } from '@/plots/DepthLines'
import { inOrder, sourceColumns } from '@/sheets/depth/columns'
import { DepthRows } from '@/sheets/depth/DepthRows'
import { FIGURES, type Figure } from '@/sheets/depth/figures'
import { bandRows, copyRows, depthRows } from '@/sheets/depth/rows'
import { TellingChoices, type Telling } from '@/sheets/depth/telling'
import { figures, percent } from '@/text/format'
import { SourceMark, TierMark } from '@/ui/Marks'

const DASHES = [undefined, '7 3', '2 3', '9 3 2 3', '4 5', '12 4']

/** `value` of each unit; of a tier, whose items differ, there is none to tell. */
export function useBySource(view: TierView | undefined, telling: Telling, value: number | null) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const scale = useDepthScale()
  const { figure, order, byBand } = telling
  const row = view?.depths.indexOf(depth) ?? 0
  const columns = view ? inOrder(sourceColumns(parts, view, figure, value ?? 0), order, row) : []
  const rows = !view
    ? []
    : byBand
      ? bandRows(view.bands, columns, scale, depth)
      : depthRows(view.depths, columns, scale, depth)
  return { columns, rows }
}

type Told = ReturnType<typeof useBySource>

export function BySource({ told, telling }: { told: Told; telling: Telling }) {
  const parts = useGame((state) => state.parts)
  const scale = useDepthScale()
  const { figure, chosen, log, toggle } = telling
  const drawn = told.columns.filter((column) => chosen.includes(column.id))
  return (
    <div className="flex shrink-0">
      {drawn.length > 0 && (
        <DepthLines
          scale={scale}
          log={log}
          title={FIGURES[figure]}
          lines={drawn.map((column, at) => ({
            ...column,
            values: column.numbers,
            dash: DASHES[at % DASHES.length],
          }))}
        />
      )}
      <DepthRows
        label="figures by source and depth"
        rows={told.rows}
        columns={told.columns}
        figure={figure}
        mark={(id) => (
          <button
            type="button"
            aria-label={`open ${parts.source.get(id)?.name}`}
            className="shrink-0 hover:text-ink"
            onClick={() => show({ kind: 'source', id })}
          >
            <SourceMark kind={parts.source.get(id)?.kind ?? 'enemy'} />
          </button>
        )}
        chosen={chosen}
        onChoose={toggle}
        width={76}
        warmest="all"
      />
    </div>
  )
}

/** The head of an item's or a tier's sheet; at 1024 the choices fall on a line of their own. */
export function FoundHead({
  tier,
  name,
  about,
  view,
  told,
  telling,
  without = [],
}: {
  tier: Tier | undefined
  name: string
  /** A few words behind the name. */
  about: ReactNode
  view: TierView | undefined
  told: Told
  telling: Telling
  without?: Figure[]
}) {
  return (
    <header className="px-5 pt-1.5">
      <div className="flex flex-wrap items-baseline gap-x-2">
        <TierMark tier={tier} />
        <h1 className="name text-sheet leading-8 max-[1100px]:leading-7">{name}</h1>
        <span className="whitespace-nowrap text-small text-muted">{about}</span>
        <span className="ml-auto flex items-baseline gap-x-3 whitespace-nowrap text-small text-muted">
          <TellingChoices
            of="sources"
            telling={telling}
            without={without}
            onCopy={() => copyRows(told.rows, told.columns)}
          />
          <button
            type="button"
            className="label underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() => show({ kind: 'items', id: 'catalogue' })}
          >
            catalogue
          </button>
        </span>
      </div>
      {view && <Where view={view} />}
    </header>
  )
}

function Where({ view }: { view: TierView }) {
  const parts = useGame((state) => state.parts)
  const word = parts.settings.words?.depth ?? 'depth'
  const name = (id: string) => parts.source.get(id)?.name ?? id
  if (view.first === null) return <p className="text-note text-bad">Nobody can get it.</p>
  return (
    <p className="text-note">
      First at {word} <b className="num">{view.first}</b>.
      {view.best_event && (
        <>
          {' '}
          Surest from <b className="name">{name(view.best_event.source)}</b> at{' '}
          <span className="num">{view.best_event.depth}</span>:{' '}
          <b className="num">{percent(view.best_event.figure)}&#8239;%</b>.
        </>
      )}
      {view.best_hour && (
        <>
          {' '}
          Most an hour from <b className="name">{name(view.best_hour.source)}</b> at{' '}
          <span className="num">{view.best_hour.depth}</span>:{' '}
          <b className="num">{figures(view.best_hour.figure)}</b>.
        </>
      )}
      {view.gaps.map(([low, high]) => (
        <span key={low} className="text-waiting">
          {' '}
          Unobtainable {low === high ? `at ${low}` : `between ${low} and ${high}`}.
        </span>
      ))}
    </p>
  )
}

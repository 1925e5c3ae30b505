// A source: what one kill, opening, harvest or purchase gives, as a stack of drops.
import { useState } from 'react'
import { useOdds } from '@/game/queries'
import type { Drop, EntryIn, SheetOdds, Source } from '@/api/types'
import { AlongSwitch } from '@/sheets/AlongSwitch'
import { FlagBar } from '@/sheets/FlagBar'
import { LongRunSwitch, Pays } from '@/sheets/LongRunSwitch'
import { freshDrop, freshTable } from '@/game/fresh'
import { freshId, freshName, freshLetter } from '@/game/parts'
import { change, entryOf, sketchOf, type Changed } from '@/game/edit'
import { setDepth, useGame, useGamePart } from '@/game/store'
import { eventWords, EVENT_OF, quantityText, typedQuantity } from '@/game/words'
import { CurveChoice } from '@/sheets/CurveChoice'
import { LimitsCell } from '@/sheets/table/LimitsCell'
import { Shared } from './Shared'
import { Findings } from '@/sheets/Findings'
import { CellsDrawn } from '@/sheets/kept/CellsDrawn'
import { PriceTold } from '@/sheets/kept/PriceTold'
import { TableBlock } from '@/sheets/table/TableBlock'
import { EditText } from '@/ui/EditText'
import { FoldButton } from '@/ui/Fold'
import { SourceMark } from '@/ui/Marks'
import { Notes } from '@/ui/Notes'
import { Menu } from '@/ui/Menu'
import { shifted } from '@/ui/grid/rows'
import { written } from '@/text/format'
import { HINTS, readRange, readSpan } from '@/text/readers'
import { entered, figures, percent } from '@/text/format'
import { readChance } from '@/text/numbers'
import { Title } from '@/sheets/Title'
import { Becoming } from '@/tuning/Becoming'
import { dropKeys, Facts, Family, isOwnDrop, withDropGivenBack } from './Family'
import { Ground } from './Ground'
import { KindFacts } from './KindFacts'

export function SourceSheet({ id, fell }: { id: string; fell: Map<string, number> }) {
  const { parts, focus } = useGamePart('parts', 'focus')
  const { data, error } = useOdds(focus)
  const source = parts.source.get(id)
  if (!source) return <p className="p-6 text-muted">This source is gone.</p>
  return (
    <div className="px-5 pb-10 pt-3">
      <Head source={source} sheet={data?.sheet} />
      {error && <p className="mt-2 text-bad">{error.message}</p>}
      <NotMet source={source} />
      {source.cells && <CellsDrawn source={source.id} />}
      {source.price && <PriceTold source={source.id} />}
      <div className="pt-1">
        <Findings kind="source" id={source.id} />
      </div>
      {source.drops.map((drop, at) => (
        <DropBlock
          key={drop.id}
          source={source}
          drop={drop}
          at={at}
          sheet={data?.sheet}
          fell={fell}
        />
      ))}
      {source.drops.length === 0 && (
        <p className="py-5 text-muted">
          Nothing falls yet. A drop says how often this {source.kind} gives a table; add one below.
        </p>
      )}
      <AddDrop source={source} />
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the source"
          text={source.notes}
          onCommit={(notes) => change('source', id, 'notes', { notes })}
        />
      </div>
    </div>
  )
}

/** That it is not met at the depth in view, before any of its numbers, and the nearest at which it is. */
function NotMet({ source }: { source: Source }) {
  const { parts, depth } = useGamePart('parts', 'depth')
  const { from, to } = parts.settings.depth
  const word = parts.settings.words?.depth ?? 'depth'
  if (!source.depths) return null
  const [first, last] = source.depths
  if (depth >= first && depth <= last) return null
  const [low, high] = [Math.max(first, from), Math.min(last, to)]
  const nearest = depth < low ? low : high
  return (
    <p className="mt-2 flex items-baseline gap-2 border-l-4 border-waiting pl-2" role="status">
      <span>
        {source.name} is not met at {word} <span className="num">{depth}</span>: what stands here is
        what it would give.
      </span>
      {low <= high && (
        <button type="button" className="plain-button py-0" onClick={() => setDepth(nearest)}>
          Go to {word} {nearest}
        </button>
      )}
    </p>
  )
}

function Head({ source, sheet }: { source: Source; sheet: SheetOdds | undefined }) {
  const parts = useGame((state) => state.parts)
  const { from, to } = parts.settings.depth
  const words = EVENT_OF[source.kind]
  const save = (label: string, changed: Changed<'source'>) =>
    change('source', source.id, label, changed)
  return (
    <header className="border-b border-hair pb-2">
      <Title
        of="source"
        id={source.id}
        name={source.name}
        onRename={(name) => save('renamed', { name })}
      />
      <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1 text-note text-muted">
        <Facts source={source} keys={['kind']}>
          <Menu
            label="kind of source"
            trigger={
              <button type="button" className="choice flex items-center gap-1.5 text-ink">
                <SourceMark kind={source.kind} />
                {source.kind}
              </button>
            }
            entries={(['enemy', 'container', 'node', 'parcel'] as const).map((kind) => ({
              label: `${kind}: an event is one ${EVENT_OF[kind].one}`,
              disabled: kind === source.kind,
              run: () => void save(`is a ${kind}`, { kind }),
            }))}
          />
        </Facts>
        <Facts source={source} keys={['depths']}>
          <span>
            met at{' '}
            <EditText
              label="depths where it is met"
              hint={HINTS.range}
              text={source.depths ? source.depths.join('-') : `${from}-${to}`}
              className="choice num text-ink"
              onCommit={(text) => {
                const range = readRange(text, [from, to])
                return typeof range === 'string'
                  ? { message: range }
                  : save('where it is met', { depths: range })
              }}
            />
          </span>
        </Facts>
        <Facts source={source} keys={['seconds']}>
          <span>
            <EditText
              label={`seconds ${words.a}`}
              hint={HINTS.span}
              text={entered(source.seconds)}
              className="choice num text-ink"
              onCommit={(text) => {
                const seconds = readSpan(text)
                return typeof seconds === 'string'
                  ? { message: seconds }
                  : save('seconds', { seconds })
              }}
            />{' '}
            s {words.a}
            {sheet?.per_hour ? `, ${figures(sheet.per_hour)} an hour` : ''}
          </span>
        </Facts>
        <Facts source={source} keys={['charges', 'respawn_seconds', 'cells', 'price']}>
          <KindFacts source={source} onSave={save} />
        </Facts>
        <Facts source={source} keys={['lasts', 'pick_up', 'missed']}>
          <Ground source={source} onSave={save} />
        </Facts>
        <Family source={source} onSave={save} />
        <FlagBar />
        <AlongSwitch />
        <LongRunSwitch sheet={sheet} />
        {sheet && <Pays sheet={sheet} one={`${words.a} pays`} />}
      </div>
    </header>
  )
}

function DropBlock({
  source,
  drop,
  at,
  sheet,
  fell,
}: {
  source: Source
  drop: Drop
  at: number
  sheet: SheetOdds | undefined
  fell: Map<string, number>
}) {
  const { parts, held } = useGamePart('parts', 'held')
  const [open, setOpen] = useState(true)
  const table = parts.table.get(drop.table)
  const odds = sheet?.drops[drop.id]
  const words = eventWords(source)
  const withDrop = (changed: Partial<Drop>) => (now: Source) =>
    void Object.assign(now.drops.find((one) => one.id === drop.id) ?? {}, changed)
  const save = (label: string, changed: Partial<Drop>, more?: EntryIn[]) =>
    change('source', source.id, label, withDrop(changed), more)
  const draft = (changed: Partial<Drop> | null) =>
    sketchOf('source', source.id, changed && withDrop(changed))
  const once = quantityText(drop.times) === '1'
  const typed = (text: string) => typedQuantity(text, drop.times.curve)
  return (
    <section aria-label={`drop ${table?.name ?? drop.table}`} className="pt-3" data-drop={drop.id}>
      <div className="flex flex-wrap items-baseline gap-x-2 text-note text-muted">
        <FoldButton
          open={open}
          onOpen={setOpen}
          label={`fold ${table?.name}`}
          className="self-center"
        />
        <Facts source={source} keys={dropKeys(drop.id, 'chance')}>
          <EditText
            label="chance of the drop"
            text={`${entered(drop.chance, 100)} %`}
            show={
              <Becoming
                kind="source"
                id={source.id}
                part={drop.id}
                sort="chance"
                written={(chance) => <>{written(100 * chance)}&#8239;%</>}
              >
                {written(100 * drop.chance)}&#8239;%
              </Becoming>
            }
            className="field num border-b-2 border-b-gold font-semibold text-ink"
            onDraft={(text) => {
              const chance = readChance(text ?? '')
              draft(typeof chance === 'string' ? null : { chance })
            }}
            onCommit={(text) => {
              const chance = readChance(text)
              return typeof chance === 'string'
                ? { message: chance }
                : save('chance of a drop', { chance })
            }}
          />
        </Facts>
        <span>of {words.many} give</span>
        <Facts source={source} keys={dropKeys(drop.id, 'table')}>
          <Menu
            label="which table"
            trigger={
              <button
                type="button"
                className="name text-heading leading-6 text-ink hover:bg-gold-wash"
              >
                {table?.name ?? drop.table}
              </button>
            }
            entries={[...parts.table.values()].map((one) => ({
              label: one.name,
              disabled: one.id === drop.table,
              run: () => void save(`gives ${one.name}`, { table: one.id }),
            }))}
          />
        </Facts>
        <Facts source={source} keys={dropKeys(drop.id, 'times')}>
          <EditText
            label="times the table is rolled"
            text={quantityText(drop.times)}
            show={once ? 'once' : `${quantityText(drop.times)} times`}
            className="choice text-ink"
            onDraft={(text) => draft(text === null ? null : { times: typed(text) })}
            onCommit={(text) => save('times of a drop', { times: typed(text) })}
          />
        </Facts>
        <CurveChoice
          of="how many times"
          owner={`times of ${table?.name ?? drop.table}, ${source.name}`}
          value={drop.times.curve}
          onChange={(curve, more) =>
            save('curve of a drop', { times: { ...drop.times, curve } }, more)
          }
        />
        {odds && odds.multiplier !== 1 && (
          <span className="num rounded-sm border border-hair px-1.5 text-fine">
            {parts.curve.get(drop.curve ?? '')?.name} ×{odds.multiplier.toFixed(2)}
          </span>
        )}
        <span className="inline-block h-5 min-w-6 self-center">
          <LimitsCell
            part={drop}
            name={`the drop of ${table?.name ?? drop.table}`}
            byChance
            chance={odds?.chance}
            held={held.find((one) => one.source === source.id && one.line === drop.id)}
            onChange={(label, changed, more) =>
              save(`${label} of a drop`, changed as Partial<Drop>, more)
            }
          />
        </span>
        {odds?.open === false && <span className="text-waiting">closed at this depth</span>}
        <span className="ml-auto flex items-baseline gap-x-2 whitespace-nowrap">
          {odds && (
            <span>
              <b className="num text-ink">{figures(odds.rolls)}</b> rolls {words.a}
              {odds.share !== null && (
                <>
                  , <b className="num text-ink">{percent(odds.share)}&#8239;%</b> of swing
                </>
              )}
            </span>
          )}
          {source.like && (
            <span className="label">
              {isOwnDrop(source, drop.id) ? 'its own' : 'of its family'}
            </span>
          )}
          <DropMenu source={source} drop={drop} at={at} />
        </span>
      </div>
      {open && table && (
        <div className="ml-[5px] border-l border-hair pl-3">
          <Shared source={source} drop={drop} />
          <TableBlock table={table} sheet={sheet} words={words} fell={fell} />
        </div>
      )}
    </section>
  )
}

function DropMenu({ source, drop, at }: { source: Source; drop: Drop; at: number }) {
  const elder = useGame((state) => state.parts.source.get(source.like ?? ''))
  const save = (label: string, changed: (drops: Drop[]) => Drop[]) =>
    void change('source', source.id, label, (now) => ({ ...now, drops: changed(now.drops) }))
  const theirs = elder?.drops.some((one) => one.id === drop.id)
  const moved = (by: number) => save('moved a drop', (now) => shifted(now, at, at, by) ?? now)
  return (
    <Menu
      label={`what to do with this drop`}
      align="end"
      trigger={
        <button type="button" className="px-1 text-muted hover:text-ink">
          ⋯
        </button>
      }
      entries={[
        { label: 'Move up', disabled: at === 0, run: () => moved(-1) },
        {
          label: 'Move down',
          disabled: at === source.drops.length - 1,
          run: () => moved(1),
        },
        {
          label: 'Duplicate',
          run: () =>
            save('duplicated a drop', (now) => [...now, { ...drop, id: freshLetter(now) }]),
        },
        ...(elder && theirs
          ? [
              {
                label: `As ${elder.name} has it`,
                disabled: !isOwnDrop(source, drop.id),
                run: () =>
                  void change('source', source.id, `a drop as ${elder.name} has it`, (now) => ({
                    ...now,
                    ...withDropGivenBack(now, elder, drop.id),
                  })),
              },
            ]
          : []),
        {
          label: 'Delete the drop (the table stays)',
          bad: true,
          run: () => save('removed a drop', (now) => now.filter((one) => one.id !== drop.id)),
        },
      ]}
    />
  )
}

function AddDrop({ source }: { source: Source }) {
  const parts = useGame((state) => state.parts)
  const add = (table: string, also?: EntryIn[]) => {
    const added = ({ drops }: Source) => void drops.push(freshDrop(freshLetter(drops), table))
    void change('source', source.id, 'added a drop', added, also)
  }
  const addNew = () => {
    const name = freshName(`${source.name} drops`, parts.table)
    const id = freshId(name, parts.table)
    add(id, [entryOf('table', freshTable(id, name))])
  }
  return (
    <Menu
      label="add a drop"
      trigger={
        <button type="button" className="mt-3 px-1.5 text-small text-muted hover:text-ink">
          + add a drop
        </button>
      }
      entries={[
        { label: 'A new table', run: addNew },
        null,
        ...[...parts.table.values()].map((table) => ({
          label: table.name,
          run: () => add(table.id),
        })),
      ]}
    />
  )
}

// A set: its pieces, what it does once it is complete; and when that is, which piece comes last.
import { useKept } from '@/game/queries'
import type { ItemSet, SetExactly, SetKept } from '@/api/types'
import type { Parts } from '@/game/parts'
import { show, useGame } from '@/game/store'
import { EVENT_OF, itemByName } from '@/game/words'
import { SpanPlot } from '@/plots/Span'
import { Findings } from '@/sheets/Findings'
import { Hold } from '@/sheets/target/Hold'
import { Title } from '@/sheets/Title'
import { EditText } from '@/ui/EditText'
import { entered, figures, percent, whole } from '@/text/format'
import { TierMark } from '@/ui/Marks'
import { Notes } from '@/ui/Notes'
import { typedNumber } from '@/text/numbers'
import { Pending } from '@/ui/Pending'
import { DataTable } from '@/ui/table/DataTable'
import { change, type Answer } from '@/game/edit'
import { asked, useSubject, type Subject } from './subject'
import { SubjectChoice } from './SubjectChoice'

export function SetSheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const subject = useSubject()
  const kept = useKept(asked(subject))
  const { data } = kept
  const one = parts.set.get(id)
  if (!one) return <p className="p-6 text-muted">This set is gone.</p>
  return (
    <div className="px-5 pb-10 pt-3">
      <header className="border-b border-hair pb-2">
        <Title
          of="set"
          id={id}
          name={one.name}
          onRename={(name) => change('set', one.id, 'renamed', { name })}
        />
        <Effects one={one} />
      </header>
      <Findings kind="set" id={id} />
      <div className="grid grid-cols-[minmax(260px,340px)_1fr] gap-8 pt-3">
        <Pieces one={one} kept={data?.sets?.[id]} />
        <div>
          {subject && (
            <p className="text-note text-muted">
              Told of <SubjectChoice subject={subject} />
            </p>
          )}
          {subject && !data && <Pending of={kept} what="when it is complete" />}
          {subject && data && (
            <Completion
              one={one}
              subject={subject}
              kept={data.sets?.[id]}
              exact={data.exact.sets[id]}
            />
          )}
        </div>
      </div>
      <div className="max-w-[560px] pt-4">
        <Notes
          quiet
          label="notes of the set"
          text={one.notes}
          onCommit={(notes) => change('set', one.id, 'notes', { notes })}
        />
      </div>
    </div>
  )
}

/** What a complete set adds to properties, as a sentence. */
function Effects({ one }: { one: ItemSet }) {
  const parts = useGame((state) => state.parts)
  const effects = one.effects
  const free = [...parts.property.values()].filter(
    (property) => !effects.some((effect) => effect.property === property.id),
  )
  return (
    <p className="text-note text-muted">
      Complete, it {effects.length ? 'adds ' : 'adds nothing yet'}
      {effects.map((effect, at) => (
        <span key={effect.property}>
          {at > 0 && ' and '}
          <EditText
            label={`what it adds to ${parts.property.get(effect.property)?.name}`}
            text={entered(effect.amount)}
            className="choice num text-ink"
            inputClass="num w-16"
            onCommit={(text) => {
              if (text.trim() === '')
                return change('set', one.id, 'what it adds', {
                  effects: effects.filter((other) => other !== effect),
                })
              const amount = typedNumber(text)
              if (amount === null) return { message: 'a number, or nothing at all to take it off' }
              return change('set', one.id, 'what it adds', {
                effects: effects.map((other) => (other === effect ? { ...effect, amount } : other)),
              })
            }}
          />{' '}
          to{' '}
          <button
            type="button"
            className="choice text-ink"
            onClick={() => show({ kind: 'property', id: effect.property })}
          >
            {parts.property.get(effect.property)?.name}
          </button>
        </span>
      ))}
      {free.map((property) => (
        <button
          key={property.id}
          type="button"
          className="label ml-2 hover:text-ink"
          onClick={() =>
            void change('set', one.id, 'what it adds', {
              effects: [...effects, { property: property.id, amount: 10 }],
            })
          }
        >
          + {property.name}
        </button>
      ))}
      .
    </p>
  )
}

function Pieces({ one, kept }: { one: ItemSet; kept: SetKept | undefined }) {
  const parts = useGame((state) => state.parts)
  const save = (label: string, items: ItemSet['items']) => change('set', one.id, label, { items })
  return (
    <section aria-label="pieces">
      <p className="flex items-baseline justify-between">
        <span className="head">Pieces</span>
        {kept && <span className="label">comes last, of 100</span>}
      </p>
      <ul className="divide-y divide-hair/70">
        {one.items.map((piece, at) => {
          const item = parts.item.get(piece.item)
          const last = kept?.last[piece.item]
          return (
            <li key={piece.item} className="flex items-center gap-2 py-1">
              <TierMark tier={parts.tier.get(item?.tier ?? '')} />
              <button
                type="button"
                className="name truncate text-item hover:bg-gold-wash"
                onClick={() => show({ kind: 'item', id: piece.item })}
              >
                {item?.name ?? piece.item}
              </button>
              <span className="num text-muted">×</span>
              <EditText
                label={`how many of ${item?.name}`}
                text={String(piece.count)}
                className="choice num text-ink"
                inputClass="num w-12"
                onCommit={(text) => {
                  const count = typedNumber(text)
                  if (count === null || !Number.isInteger(count) || count < 1)
                    return { message: 'a whole number from 1' }
                  return save(
                    'how many of a piece',
                    one.items.map((other, place) => (place === at ? { ...other, count } : other)),
                  )
                }}
              />
              <span className="num ml-auto">{last === undefined ? '' : percent(last)}</span>
              <button
                type="button"
                aria-label={`take out ${item?.name}`}
                className="px-0.5 text-muted hover:text-bad"
                onClick={() =>
                  void save(
                    'a piece taken out',
                    one.items.filter((_, place) => place !== at),
                  )
                }
              >
                ×
              </button>
            </li>
          )
        })}
      </ul>
      {one.items.length === 0 && (
        <p className="py-1 text-muted">Which items belong together? Type the name of the first.</p>
      )}
      <NewPiece
        parts={parts}
        taken={one.items.map((piece) => piece.item)}
        onAdd={(item) => save('a piece', [...one.items, { item, count: 1 }])}
      />
    </section>
  )
}

function NewPiece({
  parts,
  taken,
  onAdd,
}: {
  parts: Parts
  taken: string[]
  onAdd: (item: string) => Answer
}) {
  return (
    <EditText
      label="another piece"
      text=""
      show="+ a piece"
      className="label py-1 hover:text-ink"
      inputClass="w-52"
      onCommit={(text) => {
        if (!text.trim()) return null
        const item = itemByName(parts, text)
        if (!item) return { message: `there is no item “${text.trim()}”` }
        if (taken.includes(item.id)) return { message: `${item.name} is a piece of it already` }
        return onAdd(item.id)
      }}
    />
  )
}

interface CompletionProps {
  one: ItemSet
  subject: Subject
  kept: SetKept | undefined
  exact: SetExactly | undefined
}

function Completion({ one, subject, kept, exact }: CompletionProps) {
  const parts = useGame((state) => state.parts)
  const player = parts.settings.words?.player ?? 'player'
  if (!kept) return <p className="py-2 text-muted">None of its pieces comes here.</p>
  const isRoute = subject.route !== null
  const kind = parts.source.get(subject.source ?? '')?.kind
  const unit = isRoute ? 'stop' : kind ? EVENT_OF[kind].one : 'event'
  const shift = isRoute ? 1 : 0
  const waits = ([50, 90, 99] as const).map((q) => ({
    q,
    by: exact ? exact[`first_${q}`] : kept[`first_${q}`],
  }))
  return (
    <>
      <p className="mt-1 text-lead leading-6">
        <Hold
          {...(subject.source !== null && { source: subject.source })}
          wish={
            exact && subject.source !== null
              ? { figure: 'complete', set: one.id, events: subject.events, wanted: exact.complete }
              : null
          }
        >
          {percent(exact?.complete ?? kept.complete)}&#8239;%
        </Hold>{' '}
        of {player}s have it complete in the end
        {kept.spare !== null && (
          <>
            , with <b className="num">{figures(kept.spare)}</b> spare pieces by then
          </>
        )}
        . They own <b className="num">{figures(kept.pieces)}</b> of {kept.of} kinds of piece.{' '}
        <span className="label">
          {exact ? 'exact' : 'played'}
          {kept.z !== null && kept.z !== undefined && `, z ${kept.z.toFixed(2)}`}
        </span>
      </p>
      <div className="mt-2 max-w-[460px]">
        <p className="label">of 100 have it complete, by {unit}</p>
        <SpanPlot
          name={`${one.name}, complete by ${unit}`}
          says={`Complete for ${percent(kept.complete)} of 100 in the end`}
          unit={unit}
          head="have it complete, %"
          written={(value) => `${figures(value)} of 100`}
          points={kept.along.map((mark) => ({ at: mark.at + shift, mean: 100 * mark.complete }))}
          exact={(exact?.along ?? []).map((mark) => ({ at: mark.at, mean: 100 * mark.complete }))}
          bounds={[100]}
        />
      </div>
      <DataTable
        label={`waits for ${one.name}`}
        className="mt-2 max-w-[300px]"
        rows={waits}
        keyOf={(row) => String(row.q)}
        columns={[
          { id: 'q', head: 'of 100', value: (row) => row.q },
          {
            id: 'by',
            head: isRoute ? 'complete by event' : `complete by ${unit}`,
            value: (row) => row.by,
            cell: (row) => (row.by === null ? 'later, or never' : whole(row.by)),
          },
        ]}
      />
    </>
  )
}

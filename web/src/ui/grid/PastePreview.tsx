// What pasting would do, before it is done: rows that change, rows that are new, what is refused, and what
// could be made so that it is understood.
import { useState } from 'react'
import { Question } from '../Menu'
import { DataTable } from '../table/DataTable'
import { Choice } from '../Choice'
import type { Column, Offer } from './columns'
import type { Chosen, PastePlan } from './pasting'

interface Props<Row> {
  noun: string
  /** What would come of it, with these things made. */
  planOf: (made: Offer[], chosen: Chosen) => PastePlan<Row> | null
  columns: Pick<Column<Row>, 'key' | 'label' | 'enter'>[]
  canMake: boolean
  onTake: (made: Offer[], chosen: Chosen) => void
  onLeave: () => void
}

export function PastePreview<Row>(props: Props<Row>) {
  const { noun, planOf, columns, canMake, onTake, onLeave } = props
  const [chosen, setChosen] = useState<Chosen>({})
  const offers = (canMake && planOf([], chosen)?.offers) || []
  const [unwanted, setUnwanted] = useState<string[]>([])
  const made = offers.filter((offer) => !unwanted.includes(keyOf(offer)))
  const plan = planOf(made, chosen)
  if (!plan) return null
  const refused = plan.cells.filter((cell) => cell.refused !== null)
  const rows = [...refused, ...plan.cells.filter((cell) => cell.refused === null)]
  return (
    <Question
      open
      title={`Paste ${counted(plan.changed + plan.added, noun)}?`}
      onCancel={onLeave}
      choices={[{ label: 'Paste', main: true, run: () => onTake(made, chosen) }]}
    >
      <p>{summary(plan, noun, refused.length)}</p>
      {offers.length > 0 && (
        <fieldset className="border-y border-hair py-1.5">
          <legend className="label">not there yet; made along with it:</legend>
          {offers.map((offer) => (
            <label key={keyOf(offer)} className="mr-4 inline-flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={!unwanted.includes(keyOf(offer))}
                onChange={() =>
                  setUnwanted((now) =>
                    now.includes(keyOf(offer))
                      ? now.filter((one) => one !== keyOf(offer))
                      : [...now, keyOf(offer)],
                  )
                }
              />
              <span className="label">{offer.kind}</span> <span className="name">{offer.name}</span>
            </label>
          ))}
        </fieldset>
      )}
      {plan.hasHead && (
        <fieldset className="border-y border-hair py-1.5">
          <legend className="label">what the pasted columns are:</legend>
          {plan.across.map(({ head, column }, place) => (
            <label key={place} className="mr-4 inline-flex items-baseline gap-1.5">
              <span className="name">{head || `column ${place + 1}`}</span>
              <Choice
                label={`what ${head || `column ${place + 1}`} is`}
                value={column ?? ''}
                options={{
                  '': 'left out',
                  ...Object.fromEntries(
                    columns.filter((one) => one.enter).map((one) => [one.key, one.label]),
                  ),
                }}
                onChange={(key) => setChosen((now) => ({ ...now, [place]: key || null }))}
              />
            </label>
          ))}
        </fieldset>
      )}
      <div className="max-h-[38vh] overflow-auto">
        <DataTable
          label="what is pasted"
          rows={rows}
          keyOf={(cell) => `${cell.row}/${cell.column}`}
          columns={[
            { id: 'row', head: 'row', value: (cell) => cell.row + 1 },
            { id: 'what', head: 'what', align: 'left', value: (cell) => cell.column },
            {
              id: 'before',
              head: 'before',
              align: 'left',
              className: 'num text-muted',
              value: (cell) => (cell.isNew ? 'new' : cell.before),
            },
            {
              id: 'after',
              head: 'pasted',
              align: 'left',
              className: 'num',
              value: (cell) => cell.after,
            },
            {
              id: 'refused',
              head: 'why not',
              align: 'left',
              className: 'text-bad',
              value: (cell) => cell.refused ?? '',
            },
          ]}
        />
      </div>
    </Question>
  )
}

const keyOf = (offer: Offer) => `${offer.kind}/${offer.name}`

function summary<Row>(plan: PastePlan<Row>, noun: string, refused: number): string {
  const parts = [
    plan.hasHead && 'the first row names the columns',
    plan.changed > 0 &&
      `${counted(plan.changed, noun)} ${plan.changed === 1 ? 'changes' : 'change'}`,
    plan.added > 0 && `${counted(plan.added, noun)} ${plan.added === 1 ? 'is' : 'are'} new`,
    refused > 0 &&
      `${counted(refused, 'cell')} ${refused === 1 ? 'is' : 'are'} refused and left out`,
    plan.lost > 0 && `${counted(plan.lost, 'row')} would find no room`,
  ].filter(Boolean)
  const all = parts.join('; ') || 'nothing changes'
  return `${all.charAt(0).toUpperCase()}${all.slice(1)}. One undo takes all of it back.`
}

const counted = (n: number, noun: string) => `${n} ${noun}${n === 1 ? '' : 's'}`

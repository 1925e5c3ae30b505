// How a table is rolled, as a sentence whose words are choices.
import type { EntryIn, SheetOdds, Table } from '@/api/types'
import { change, sketchOf, type Changed } from '@/game/edit'
import { quantityText, RULE_WORDS, RULES, typedQuantity } from '@/game/words'
import { entered, percent, written } from '@/text/format'
import { typedNumber } from '@/text/numbers'
import { Becoming } from '@/tuning/Becoming'
import { EditText } from '@/ui/EditText'
import { Menu } from '@/ui/Menu'
import { CurveChoice } from '../CurveChoice'
import { rollAs } from './Compare'
import { Explained } from '@/ui/Explained'

export function TableSentence({
  table,
  odds,
  onCompare,
}: {
  table: Table
  odds: SheetOdds['tables'][string] | undefined
  onCompare: () => void
}) {
  const save = (label: string, changed: Changed<'table'>, more?: EntryIn[]) =>
    change('table', table.id, label, changed, more)
  const draft = (changed: object | null) => sketchOf('table', table.id, changed)
  const one = quantityText(table.rolls) === '1'
  const changeRule = (rule: string) => rollAs(table, rule as Table['rule'])
  return (
    <p className="py-1 text-note leading-6 text-muted">
      Roll{' '}
      <EditText
        label="rolls"
        text={quantityText(table.rolls)}
        className="choice num text-ink"
        onDraft={(text) =>
          draft(text === null ? null : { rolls: typedQuantity(text, table.rolls.curve) })
        }
        onCommit={(text) => save('rolls', { rolls: typedQuantity(text, table.rolls.curve) })}
      />
      <CurveChoice
        of="the number of rolls"
        owner={`rolls of ${table.name}`}
        value={table.rolls.curve}
        onChange={(curve, more) =>
          save('curve of the rolls', { rolls: { ...table.rolls, curve } }, more)
        }
      />
      {one ? ' time; it ' : ' times; each roll '}
      <Menu
        label={`how ${table.name} is rolled`}
        trigger={
          <button type="button" className="choice text-ink">
            {RULE_WORDS[table.rule]}
          </button>
        }
        entries={RULES.map((rule) => ({
          label: RULE_WORDS[rule],
          disabled: rule === table.rule,
          run: () => void changeRule(rule),
        }))}
      />
      {table.rule === 'pick' && (
        <>
          ; <Explained term="blank weight" />{' '}
          <EditText
            label="blank weight"
            text={entered(table.nothing)}
            show={
              <Becoming kind="table" id={table.id} part="" sort="nothing" written={written}>
                {written(table.nothing)}
              </Becoming>
            }
            className="choice num text-ink"
            onDraft={(text) => {
              const value = text === null ? null : typedNumber(text)
              draft(value === null ? null : { nothing: value })
            }}
            onCommit={(text) => {
              const value = typedNumber(text)
              return value === null
                ? { message: 'a weight is a number' }
                : save('blank weight', { nothing: value })
            }}
          />
          <CurveChoice
            of="the blank weight"
            owner={`blank of ${table.name}`}
            value={table.nothing_curve}
            onChange={(curve, more) => save('curve of the blank', { nothing_curve: curve }, more)}
          />
        </>
      )}
      {table.rule === 'pick' && (
        <>
          ;{' '}
          <Explained
            term="lines may repeat"
            by={
              <button
                type="button"
                className="choice text-ink"
                onClick={() => void save('distinct picks', { distinct: !table.distinct })}
              >
                {table.distinct ? 'no line twice' : 'lines may repeat'}
              </button>
            }
          />
        </>
      )}
      {table.rule === 'retry' && (
        <>
          {' '}
          up to{' '}
          <EditText
            label="tries"
            text={String(table.tries)}
            className="choice num text-ink"
            onDraft={(text) => {
              const tries = text === null ? null : typedNumber(text)
              draft(tries === null ? null : { tries })
            }}
            onCommit={(text) => {
              const tries = typedNumber(text)
              return tries === null ? { message: 'a whole number' } : save('tries', { tries })
            }}
          />{' '}
          times in all
        </>
      )}
      {table.rule === 'retry' && odds && <> which come to the strip below</>}
      {odds && table.rule !== 'pick' && (
        <span>
          ; nothing at all in <b className="num text-ink">{percent(odds.empty)}&#8239;%</b> of rolls
        </span>
      )}{' '}
      <button
        type="button"
        className="label ml-1 underline decoration-hair underline-offset-2 hover:text-ink"
        onClick={onCompare}
      >
        what if rolled otherwise?
      </button>
    </p>
  )
}

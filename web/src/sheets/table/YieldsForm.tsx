// Everything a line gives: several yields, pools of items by tier and tag, other tables, sources.
import { useState } from 'react'
import type { EntryIn, Line, Pool, Yield } from '@/api/types'
import { chosenCurves, curvesFor, OWN } from '@/game/curves'
import type { Parts } from '@/game/parts'
import type { Answer } from '@/game/edit'
import { useGame } from '@/game/store'
import { lineName, quantityText, typedQuantity, yieldByName, yieldName } from '@/game/words'
import { TierMark } from '@/ui/Marks'
import { SmallForm } from '@/ui/SmallForm'
import { BLANK_YIELD } from './lines'

interface Row {
  kind: 'named' | 'pool'
  name: string
  pool: Pool
  quantity: string
  curve: string
}

interface Props {
  line: Line
  /** `more` are edits that go with it: of curves of a quantity's own. */
  onSave: (yields: Yield[], more: EntryIn[]) => Answer
  onDone: () => void
}

export function YieldsForm({ line, onSave, onDone }: Props) {
  const parts = useGame((state) => state.parts)
  const [rows, setRows] = useState(() => line.yields.map((given) => rowOf(parts, given)))
  const [problem, setProblem] = useState('')
  const change = (at: number, changed: Partial<Row>) =>
    setRows(rows.map((row, n) => (n === at ? { ...row, ...changed } : row)))
  const save = async () => {
    const scaled = chosenCurves(
      parts,
      rows.map((row) => row.curve),
      `how many of ${lineName(parts, line)}`,
    )
    const yields: Yield[] = []
    for (const [at, row] of rows.entries()) {
      const given = yieldOf(parts, { ...row, curve: scaled.curves[at] ?? '' })
      if (typeof given === 'string') return setProblem(given)
      yields.push(given)
    }
    const failure = await onSave(yields, scaled.entries)
    if (failure) setProblem(failure.message)
    else onDone()
  }
  return (
    <SmallForm
      className="w-[430px]"
      problem={problem}
      onSave={() => void save()}
      more={
        <>
          <button
            type="button"
            className="plain-button"
            onClick={() => setRows([...rows, fresh()])}
          >
            + item, table or source
          </button>
          <button
            type="button"
            className="plain-button"
            onClick={() => setRows([...rows, { ...fresh(), kind: 'pool' }])}
          >
            + any of a kind
          </button>
        </>
      }
    >
      <p className="text-muted">
        {rows.length > 1 ? 'When this line hits it gives all of these:' : 'When this line hits:'}
      </p>
      {rows.map((row, at) => (
        <div key={at} className="flex items-start gap-2 border-b border-hair pb-2">
          <input
            aria-label={`quantity ${at + 1}`}
            className="field num w-20 text-right"
            value={row.quantity}
            onChange={(event) => change(at, { quantity: event.target.value })}
          />
          {row.kind === 'named' ? (
            <input
              aria-label={`what it gives ${at + 1}`}
              list="all-yields"
              className="field name flex-1 text-body"
              value={row.name}
              onChange={(event) => change(at, { name: event.target.value })}
            />
          ) : (
            <PoolFields parts={parts} pool={row.pool} onPool={(pool) => change(at, { pool })} />
          )}
          <select
            aria-label={`curve of quantity ${at + 1}`}
            className="field w-24"
            value={row.curve}
            onChange={(event) => change(at, { curve: event.target.value })}
          >
            <option value="">no curve</option>
            {!parts.curve.get(row.curve)?.private && <option value={OWN}>× its own</option>}
            {curvesFor(parts, row.curve).map((curve) => (
              <option key={curve.id} value={curve.id}>
                × {curve.name}
              </option>
            ))}
          </select>
          <button
            type="button"
            aria-label={`take out ${at + 1}`}
            className="px-1 text-muted hover:text-bad"
            onClick={() => setRows(rows.filter((_, n) => n !== at))}
          >
            ×
          </button>
        </div>
      ))}
      <AllYields parts={parts} />
      {rows.length === 0 && <p className="italic text-muted">Nothing, stated on purpose.</p>}
    </SmallForm>
  )
}

function PoolFields({
  parts,
  pool,
  onPool,
}: {
  parts: Parts
  pool: Pool
  onPool: (pool: Pool) => void
}) {
  const [tags, setTags] = useState(pool.tags.join(', '))
  const fits = [...parts.item.values()].filter(
    (item) =>
      (!pool.tiers.length || pool.tiers.includes(item.tier)) &&
      (!pool.tags.length || item.tags.some((tag) => pool.tags.includes(tag))),
  )
  const toggle = (tier: string) =>
    onPool({
      ...pool,
      tiers: pool.tiers.includes(tier)
        ? pool.tiers.filter((one) => one !== tier)
        : [...pool.tiers, tier],
    })
  return (
    <div className="flex-1 space-y-1">
      <p className="flex flex-wrap gap-1" role="group" aria-label="tiers of the pool">
        {[...parts.tier.values()].map((tier) => (
          <button
            key={tier.id}
            type="button"
            aria-pressed={pool.tiers.includes(tier.id)}
            onClick={() => toggle(tier.id)}
            className={`flex items-center gap-1 rounded-sm border px-1 text-fine ${pool.tiers.includes(tier.id) ? 'border-gold bg-gold-wash' : 'border-hair text-muted'}`}
          >
            <TierMark tier={tier} size={11} /> {tier.name}
          </button>
        ))}
      </p>
      <input
        aria-label="tags of the pool"
        placeholder="tags, with commas between"
        className="field w-full"
        value={tags}
        onChange={(event) => {
          setTags(event.target.value)
          const list = event.target.value.split(',').map((tag) => tag.trim())
          onPool({ ...pool, tags: list.filter(Boolean) })
        }}
      />
      <p className="text-fine text-muted">
        {fits.length
          ? `one of ${fits.length}: ${fits
              .slice(0, 4)
              .map((item) => item.name)
              .join(', ')}${fits.length > 4 ? ' …' : ''}`
          : 'no item fits'}
      </p>
    </div>
  )
}

function AllYields({ parts }: { parts: Parts }) {
  const names = [parts.item, parts.table, parts.source].flatMap((map) =>
    [...map.values()].map((part) => part.name),
  )
  return (
    <datalist id="all-yields">
      {[...new Set(names)].map((name) => (
        <option key={name} value={name} />
      ))}
    </datalist>
  )
}

function fresh(): Row {
  return { kind: 'named', name: '', pool: { tiers: [], tags: [] }, quantity: '1', curve: '' }
}

function rowOf(parts: Parts, given: Yield): Row {
  return {
    kind: given.pool ? 'pool' : 'named',
    name: given.pool ? '' : yieldName(parts, given),
    pool: given.pool ?? { tiers: [], tags: [] },
    quantity: quantityText(given.quantity),
    curve: given.quantity.curve ?? '',
  }
}

/** The yield that a row says, or what is wrong with it; the server reads the quantity. */
function yieldOf(parts: Parts, row: Row): Yield | string {
  const quantity = typedQuantity(row.quantity, row.curve)
  if (row.kind === 'pool') {
    const { tiers, tags } = row.pool
    if (!tiers.length && !tags.length) return 'choose a tier or name a tag'
    return { ...BLANK_YIELD, pool: row.pool, quantity }
  }
  const given = yieldByName(parts, row.name)
  if (!given) return `there is no item, table or source called “${row.name}”`
  return { ...BLANK_YIELD, ...given, quantity } as Yield
}

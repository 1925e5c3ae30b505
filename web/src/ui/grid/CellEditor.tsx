// The open cell: what is typed stays until it is taken or given up; what is wrong stands beside it.
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react'
import type { Failure } from '@/game/store'
import { Complaint } from '../EditText'
import type { Column } from './columns'

export type Closing = 'Enter' | 'Tab' | 'Escape' | 'blur'

interface Props<Row> {
  column: Column<Row>
  row: Row
  initial: string
  /** Typing began it: what is typed takes the place of what stood there. */
  isFresh: boolean
  /** Why `initial`, typed before, could not be saved. */
  refused: string
  onDraft: (row: Row | null) => void
  onRow: (row: Row) => Promise<Failure | null>
  onDone: (key: Closing) => void
  onRefused: (text: string, problem: string) => void
}

export function CellEditor<Row>(props: Props<Row>) {
  const { column, row, initial, isFresh, refused, onDraft, onRow, onDone, onRefused } = props
  const [text, setText] = useState(initial)
  const [problem, setProblem] = useState(refused)
  const [chosen, setChosen] = useState(0)
  // Leaving the cell blurs the field once more: what was taken is not taken twice.
  const busy = useRef(false)
  const input = useRef<HTMLInputElement>(null)
  const found = useMemo(() => column.suggest?.(text).slice(0, 9) ?? [], [column, text])

  useEffect(() => {
    const cell = input.current
    if (!cell) return
    cell.focus()
    if (isFresh) type(initial)
    else cell.select()
    // Only when the cell opens.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])

  function type(typed: string) {
    setText(typed)
    setProblem('')
    setChosen(0)
    if (!column.enter || column.suggest) return
    const entered = column.enter(row, typed)
    onDraft(typeof entered === 'string' ? null : entered)
  }

  /** Close at once and save behind it, so that fast fingers lose nothing. */
  function take(typed: string, key: 'Enter' | 'Tab' | 'blur') {
    if (busy.current) return
    busy.current = true
    if (typed === column.text(row)) return onDone(key)
    const saving = column.answer ? column.answer(row, typed) : enter(typed)
    if (typeof saving === 'string') {
      setProblem(saving)
      busy.current = false
      return
    }
    onDone(key)
    void saving?.then((failure) => failure && onRefused(typed, failure.message))
  }

  function enter(typed: string): Promise<Failure | null> | string | undefined {
    const entered = column.enter?.(row, typed)
    if (entered === undefined) return undefined
    return typeof entered === 'string' ? entered : onRow(entered)
  }

  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation()
    if (event.key === 'Escape') {
      busy.current = true
      return onDone('Escape')
    }
    if (found.length && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault()
      const by = event.key === 'ArrowDown' ? 1 : -1
      return setChosen((chosen + by + found.length) % found.length)
    }
    if (event.key !== 'Enter' && event.key !== 'Tab') return
    event.preventDefault()
    take(found[chosen]?.text ?? text, event.key)
  }

  return (
    <>
      <input
        ref={input}
        aria-label={column.label}
        aria-invalid={problem !== ''}
        value={text}
        className={`absolute inset-0 w-full bg-raised px-1.5 outline-none ${column.align === 'right' ? 'num text-right' : ''} shadow-[inset_0_0_0_1.5px_var(--color-gold)]`}
        onChange={(event) => type(event.target.value)}
        onKeyDown={onKeyDown}
        onBlur={() => (problem ? undefined : take(text, 'blur'))}
      />
      {found.length > 0 && (
        <ul role="listbox" className="overlay absolute left-0 top-full z-30 w-64 py-1">
          {found.map((suggestion, at) => (
            <li
              key={suggestion.text + String(at)}
              role="option"
              aria-selected={at === chosen}
              className={`flex items-center gap-2 px-2 py-0.5 ${at === chosen ? 'bg-gold-wash' : ''}`}
              onMouseDown={(event) => {
                event.preventDefault()
                take(suggestion.text, 'Enter')
              }}
            >
              {suggestion.mark}
              <span className="name truncate text-body">{suggestion.text}</span>
              <span className="label ml-auto">{suggestion.note}</span>
            </li>
          ))}
        </ul>
      )}
      {problem && <Complaint text={problem} />}
    </>
  )
}

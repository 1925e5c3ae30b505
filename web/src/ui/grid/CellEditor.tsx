// The open cell: what is typed stays until it is taken or given up; what is wrong stands beside it.
import { useEffect, useMemo, useRef, useState, type KeyboardEvent } from 'react'
import { Complaint } from '../EditText'
import { isComposing } from '../keys'
import type { Column } from './columns'
import type { RowActs } from './GridRow'
import type { Editor } from './state'

interface Props<Row> {
  column: Column<Row>
  editor: Editor
  acts: Pick<RowActs<Row>, 'type' | 'take' | 'giveUp'>
}

export function CellEditor<Row>({ column, editor, acts }: Props<Row>) {
  const { text, problem } = editor
  const [chosen, setChosen] = useState(0)
  const input = useRef<HTMLInputElement>(null)
  const found = useMemo(() => column.suggest?.(text).slice(0, 9) ?? [], [column, text])
  // Only when it opens, or is scrolled back to: what was typed already is not typed over.
  const isUntouched = !editor.isFresh && text === editor.began
  const opening = useRef(isUntouched)
  useEffect(() => {
    const cell = input.current
    cell?.focus()
    if (opening.current) cell?.select()
  }, [])
  const onKeyDown = (event: KeyboardEvent) => {
    event.stopPropagation()
    if (isComposing(event)) return
    if (event.key === 'Escape') return acts.giveUp()
    if (found.length && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault()
      const by = event.key === 'ArrowDown' ? 1 : -1
      return setChosen((chosen + by + found.length) % found.length)
    }
    if (event.key !== 'Enter' && event.key !== 'Tab') return
    event.preventDefault()
    acts.take(event.key, found[chosen]?.text)
  }
  return (
    <>
      <input
        ref={input}
        aria-label={column.label}
        aria-invalid={problem !== ''}
        value={text}
        className={`absolute inset-0 w-full bg-raised px-1.5 outline-none ${column.align === 'right' ? 'num text-right' : ''} ${problem ? 'shadow-[inset_0_0_0_1.5px_var(--color-bad)]' : 'shadow-[inset_0_0_0_1.5px_var(--color-gold)]'}`}
        onChange={(event) => {
          setChosen(0)
          acts.type(event.target.value)
        }}
        onKeyDown={onKeyDown}
        // What was refused stays, to be mended.
        onBlur={() => (problem ? undefined : acts.take('left'))}
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
                acts.take('Enter', suggestion.text)
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

// A grid at work: its state is `state`, what is to be done about it is done here; how it looks is `Grid`.
import {
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type ClipboardEvent,
  type KeyboardEvent,
  type ReactNode,
} from 'react'
import { toast } from 'sonner'
import { Gesture } from '@/game/edit'
import type { Failure } from '@/game/store'
import { opened, tellLost } from '@/game/typed'
import type { MenuEntry } from '../Menu'
import { useSteady } from '../useSteady'
import { copied, type Column, type Offer } from './columns'
import type { RowActs } from './GridRow'
import { actOf, isOwn, isPressed } from './keys'
import { pastedCells, type Chosen } from './pasting'
import {
  emptyGrid,
  placesOf,
  planOf,
  reducedGrid,
  type Cell,
  type Drawn,
  type Editor,
  type GridEffect,
  type GridEvent,
  type GridState,
} from './state'
import { useWindow } from './useWindow'
import type { Sorting } from './view'

type Saved = PromiseLike<Failure | null>

export interface GridProps<Row> {
  label: string
  rows: Row[]
  columns: Column<Row>[]
  idOf: (row: Row) => string
  nameOf: (row: Row) => string
  /** Makes the rows what they should be; saved as one step with this label. */
  onRows: (label: string, changed: (rows: Row[]) => Row[]) => Saved
  onDraft?: (changed: ((rows: Row[]) => Row[]) | null) => void
  newRow?: (rows: Row[]) => Row
  copyOf?: (row: Row, rows: Row[]) => Row
  onRow?: (row: Row | null) => void
  /** Rows may refuse to go (others need them): takes over what Delete does. */
  onDelete?: (rows: Row[]) => void
  /** A row may have a sheet of its own. */
  onOpen?: (row: Row) => void
  /** What else can be done with a row. */
  actions?: (row: Row) => MenuEntry[]
  /** Rows may be carried elsewhere by the mouse. */
  carried?: boolean
  dimmed?: (row: Row) => boolean
  lit?: (row: Row) => boolean
  noun: string
  /** Not all rows are seen, or not in their order. */
  isPart?: boolean
  sorting?: Sorting | null
  /** A heading was pressed: rows are to be seen by its column. */
  onSort?: (sorting: Sorting | null) => void
  addText?: ReactNode
  /** What is named in pasted cells and not there can be made: the columns that know it then, and how all of
   * it is saved. */
  making?: (made: Offer[]) => Making<Row>
}

export interface Making<Row> {
  columns: Column<Row>[]
  onRows: GridProps<Row>['onRows']
}

export type Over = { at: number; to: number } | null

export function useGrid<Row>(props: GridProps<Row>) {
  const { rows, columns, idOf } = props
  const { making } = props
  const drawn: Drawn<Row> = {
    ...props,
    columnsWith: making && ((made) => making(made).columns),
  }
  const [state, setState] = useState<GridState<Row, Gesture>>(emptyGrid)
  const latest = useRef(state)
  const [over, setOver] = useState<Over>(null)
  const root = useRef<HTMLDivElement>(null)
  const body = useRef<HTMLDivElement>(null)
  const places = placesOf(state, drawn)
  const window = useWindow(body, rows.length, places?.at.row ?? -1)
  // What was open was closed by a key, or something was made: the keyboard goes on from the grid.
  const wantsFocus = useRef(false)

  const cellOf = (cell: Cell | null) =>
    cell &&
    root.current?.querySelector<HTMLElement>(
      `[data-row="${cell.row}"] > [data-column="${cell.column}"]`,
    )

  const dispatch = (event: GridEvent<Gesture>) => {
    const [next, effects] = reducedGrid(latest.current, event, drawn)
    latest.current = next
    setState(next)
    for (const effect of effects) run(effect)
  }

  const run = (effect: GridEffect<Row, Gesture>): void => {
    switch (effect.do) {
      case 'save':
        return save(effect)
      case 'answer': {
        const { column, row, editor } = effect
        const answered = editor.held.within(() => column.answer?.(row, editor.text))
        return void answered?.then((failure) => failure && refuse(editor, failure))
      }
      case 'sketch': {
        const { changed, held } = effect
        return held ? held.within(() => props.onDraft?.(changed)) : props.onDraft?.(changed)
      }
      case 'remove':
        return remove(effect.rows)
      case 'focus':
        wantsFocus.current = true
        return
      case 'press': {
        const cell = cellOf(latest.current.active)
        const pressed =
          effect.what === 'menu'
            ? cell?.parentElement?.querySelector<HTMLElement>('[data-row-menu]')
            : cell?.querySelector<HTMLElement>('button')
        return pressed?.click()
      }
      case 'told':
        return props.onRow?.(effect.row)
      case 'refuse':
        return void toast.error(effect.why)
      case 'lost':
        return tellLost(effect.where, effect.text, effect.why)
    }
  }

  const save = ({ label, changed, held, editor, made }: Saving<Row>): void => {
    const onRows = made?.length ? (making?.(made).onRows ?? props.onRows) : props.onRows
    const saved = held ? held.within(() => onRows(label, changed)) : onRows(label, changed)
    if (editor) void saved.then((failure) => failure && refuse(editor, failure))
  }

  const refuse = (editor: Editor<Gesture>, { message }: Failure) =>
    steady.dispatch({ type: 'refused', editor, problem: message })

  const remove = (gone: Row[]): void => {
    if (props.onDelete) return props.onDelete(gone)
    const [first] = gone
    const isOne = gone.length === 1 && first !== undefined
    const what = isOne ? props.nameOf(first) : `${gone.length} ${props.noun}s`
    const ids = new Set(gone.map(idOf))
    void props.onRows(`removed ${what}`, (now) => now.filter((row) => !ids.has(idOf(row))))
  }

  // Whoever waits for an answer speaks to the grid as it is by then.
  const steady = useSteady({ dispatch })

  useLayoutEffect(() => steady.dispatch({ type: 'rows' }), [rows, columns, steady])

  const isEditing = state.editor !== null
  useEffect(() => {
    if (!isEditing) return
    return opened(() => steady.dispatch({ type: 'take', how: 'left' }))
  }, [isEditing, steady])
  useEffect(
    () => () => {
      const { editor } = latest.current
      if (editor && editor.text !== editor.began)
        tellLost(editor.cell.column, editor.text, editor.problem || 'its sheet was left')
    },
    [],
  )

  const shownAt = useRef('')
  useLayoutEffect(() => {
    const { active, editor } = state
    if (!active) return
    if (editor && editor.cell.row === active.row && editor.cell.column === active.column) return
    const now = `${active.row} ${active.column}`
    const moved = shownAt.current !== now
    if (!moved && !wantsFocus.current) return
    const cell = cellOf(active)
    if (!cell) return void (places && window.bringInView(places.at.row))
    if (wantsFocus.current || root.current?.contains(document.activeElement)) cell.focus()
    wantsFocus.current = false
    shownAt.current = now
  })

  const entries = (row: Row): MenuEntry[] => {
    const id = idOf(row)
    const copy = () => dispatch({ type: 'copy', row: id })
    return [
      ...(props.onOpen ? [{ label: 'Open', run: () => props.onOpen?.(row) }] : []),
      { label: 'Duplicate', keys: 'Ctrl D', run: copy, disabled: !props.copyOf },
      ...(props.actions?.(row) ?? []),
      { label: 'Delete', keys: 'Del', run: () => dispatch({ type: 'remove', row: id }), bad: true },
    ]
  }

  const acts = useSteady<RowActs<Row>>({
    go: (cell, extend) => dispatch({ type: 'go', cell, extend }),
    begin: () => dispatch({ type: 'open', text: null, held: new Gesture() }),
    type: (text) => dispatch({ type: 'typed', text }),
    take: (how, text) => dispatch({ type: 'take', how, text }),
    giveUp: () => dispatch({ type: 'give up' }),
    over: setOver,
    carry: (from, to) => dispatch({ type: 'carry', from, to }),
    entries,
    back: () => {
      setTimeout(() => {
        if (document.activeElement === document.body) cellOf(latest.current.active)?.focus()
      })
    },
  })

  return {
    root,
    body,
    state,
    block: places?.block ?? null,
    window,
    over,
    acts,
    add: () => dispatch({ type: 'add' }),
    planOf: (made: Offer[], chosen: Chosen) =>
      state.pasting && planOf(state.pasting, made, drawn, chosen),
    takePasted: (made: Offer[], chosen: Chosen) => dispatch({ type: 'take pasted', made, chosen }),
    leavePasted: () => dispatch({ type: 'leave pasted' }),
    onKeyDown: (event: KeyboardEvent) => {
      if (!places || !isOwn(event) || isPressed(event)) return
      const act = actOf(event, places.at, places.block, columns)
      if (!act) return
      event.preventDefault()
      event.stopPropagation()
      dispatch({ type: 'key', act, held: new Gesture() })
    },
    onCopy: (event: ClipboardEvent) => {
      if (!places || !isOwn(event)) return
      event.clipboardData.setData('text/plain', copied(rows, columns, places.block))
      event.preventDefault()
    },
    onPaste: (event: ClipboardEvent) => {
      if (!places || !isOwn(event)) return
      event.preventDefault()
      const cells = pastedCells(event.clipboardData.getData('text/plain'))
      dispatch({ type: 'paste', cells, held: new Gesture() })
    },
  }
}

type Saving<Row> = Extract<GridEffect<Row, Gesture>, { do: 'save' }>

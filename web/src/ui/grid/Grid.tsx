// A dense grid with a spreadsheet's manners. It knows nothing of loot: columns tell it all.
import { inBlock, type Column } from './columns'
import { GridRow } from './GridRow'
import { PastePreview } from './PastePreview'
import { useGrid, type GridProps, type Over } from './useGrid'
import type { Sorting } from './view'

export function Grid<Row>(props: GridProps<Row>) {
  const grid = useGrid(props)
  const { rows, columns, idOf } = props
  const { state, block, over, acts, root } = grid
  const template = columns.map((column) => column.width).join(' ')
  const { drawn, height } = grid.window
  return (
    <div className="text-small">
      <div
        ref={root}
        role="grid"
        aria-label={props.label}
        aria-rowcount={rows.length + 1}
        aria-colcount={columns.length + 1}
        aria-multiselectable
        onKeyDown={grid.onKeyDown}
        onCopy={grid.onCopy}
        onPaste={grid.onPaste}
      >
        <Head {...props} template={template} />
        <div ref={grid.body} role="rowgroup" className="relative" style={{ height }}>
          {drawn.map(({ at, top }) => {
            const row = rows[at] as Row
            const id = idOf(row)
            return (
              <GridRow
                key={id}
                grid={props.label}
                row={row}
                id={id}
                name={props.nameOf(row)}
                at={at}
                count={rows.length}
                top={top}
                template={template}
                columns={columns}
                acts={acts}
                active={state.active?.row === id ? state.active.column : null}
                isEntry={!block && at === 0}
                editor={state.editor?.cell.row === id ? state.editor : null}
                block={block && inBlock(block, at, block.left) ? block : null}
                carried={props.carried ?? false}
                held={heldOver(over, at)}
                dimmed={props.dimmed?.(row) ?? false}
                lit={props.lit?.(row) ?? false}
              />
            )
          })}
        </div>
      </div>
      {state.pasting && (
        <PastePreview
          noun={props.noun}
          planOf={grid.planOf}
          columns={columns}
          canMake={props.making !== undefined}
          onTake={grid.takePasted}
          onLeave={grid.leavePasted}
        />
      )}
      {props.newRow && (
        <button
          type="button"
          className="px-1.5 py-1.5 text-small text-muted hover:text-ink"
          onClick={grid.add}
        >
          {props.addText ?? `+ add ${props.noun}`}
        </button>
      )}
    </div>
  )
}

function Head<Row>({
  columns,
  template,
  sorting = null,
  onSort,
}: Pick<GridProps<Row>, 'columns' | 'sorting' | 'onSort'> & { template: string }) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="grid items-end border-b border-hair pb-1 leading-tight text-muted"
      style={{ gridTemplateColumns: template }}
    >
      {columns.map((column, at) => (
        <span
          key={column.key}
          role="columnheader"
          aria-colindex={at + 1}
          aria-label={column.label}
          aria-sort={onSort && sortOf(column, sorting)}
          className={`px-[5px] ${column.align === 'right' ? 'text-right' : ''}`}
        >
          {column.head}
          {onSort && <SortButton column={column} sorting={sorting} onSort={onSort} />}
        </span>
      ))}
    </div>
  )
}

const sortOf = <Row,>(column: Column<Row>, sorting: Sorting | null) =>
  sorting?.column !== column.key ? 'none' : sorting.isDown ? 'descending' : 'ascending'

/** Up, then down, then as the rows stand. */
function SortButton<Row>({
  column,
  sorting,
  onSort,
}: {
  column: Column<Row>
  sorting: Sorting | null
  onSort: (sorting: Sorting | null) => void
}) {
  const now = sorting?.column === column.key ? sorting : null
  const next = now?.isDown ? null : { column: column.key, isDown: now !== null }
  return (
    <button
      type="button"
      aria-label={`see them by ${column.label}`}
      title={now?.isDown ? 'as they stand' : `see them by ${column.label}`}
      className={`px-1 ${now ? 'text-ink' : 'text-hair hover:text-muted'}`}
      onClick={() => onSort(next)}
    >
      <svg width="8" height="9" aria-hidden className="inline">
        <path
          d={now?.isDown ? 'M1 2h6L4 8z' : 'M1 7h6L4 1z'}
          fill={now ? 'currentColor' : 'none'}
          stroke="currentColor"
        />
      </svg>
    </button>
  )
}

function heldOver(over: Over, at: number): 'above' | 'below' | 'away' | null {
  if (!over) return null
  if (over.at === at) return 'away'
  return over.to === at ? (over.to > over.at ? 'below' : 'above') : null
}

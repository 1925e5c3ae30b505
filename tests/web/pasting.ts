// Pasting into a grid of two columns, for a test that cannot hand functions over.
import type { Column } from "@/ui/grid/columns";
import { planned, refusalOf, type Chosen } from "@/ui/grid/pasting";
import { readNumber } from "@/text/numbers";

interface Row {
  name: string;
  worth: number;
}

const columns: Column<Row>[] = [
  {
    key: "name",
    head: "name",
    label: "name",
    width: "1fr",
    text: (row) => row.name,
    enter: (row, text) => ({ ...row, name: text }),
  },
  {
    key: "value",
    head: "worth",
    label: "value",
    width: "1fr",
    text: (row) => String(row.worth),
    enter: (row, text) => {
      const worth = readNumber(text);
      return typeof worth === "string" ? worth : { ...row, worth };
    },
  },
];

export function tried(cells: string[][], chosen: Chosen = {}): Row[] | string {
  const plan = planned<Row>(
    [],
    columns,
    { row: 0, column: 0 },
    cells,
    () => ({ name: "", worth: 1 }),
    chosen,
  );
  return refusalOf(plan) ?? plan.rows;
}

/** How many cells differ once a grid's own rows are pasted back on themselves. */
export function pastedBack(rows: Row[]): number {
  const cells = rows.map((row) => columns.map((column) => column.text(row)));
  return planned<Row>(rows, columns, { row: 0, column: 0 }, cells).cells.length;
}

export function across(cells: string[][]): (string | null)[] {
  const plan = planned<Row>([], columns, { row: 0, column: 0 }, cells);
  return plan.across.map((one) => one.column);
}

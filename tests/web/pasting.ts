// Pasting into a grid of two columns, for a test that cannot hand functions over.
import type { Column } from "@/ui/grid/columns";
import { planned, refusalOf } from "@/ui/grid/pasting";
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

export function tried(cells: string[][]): Row[] | string {
  const plan = planned<Row>([], columns, { row: 0, column: 0 }, cells, () => ({
    name: "",
    worth: 1,
  }));
  return refusalOf(plan) ?? plan.rows;
}

// A grid of three columns that is worked on while others change its rows, for a test that cannot hand functions
// over: events go in, and what became of all that was typed comes out.
import type { Column } from "@/ui/grid/columns";
import {
  emptyGrid,
  placesOf,
  reducedGrid,
  type Cell,
  type Drawn,
  type Editor,
  type GridEffect,
  type GridEvent,
  type GridState,
} from "@/ui/grid/state";
import { inView, sortedBy } from "@/ui/grid/view";

interface Row {
  id: string;
  name: string;
  weight: string;
}

type Doing =
  | { does: "grid"; event: GridEvent<number> }
  // Others put a row in, take one out, or change one.
  | { does: "put"; id: string; at: number }
  | { does: "take"; at: number }
  | { does: "change"; at: number; weight: string }
  // What waits is answered: saved, or refused.
  | { does: "answer"; refused: boolean };

interface Outcome {
  /** What was typed into an open cell, and what became of it. */
  typed: string[];
  replaced: string[];
  givenUp: string[];
  lost: string[];
  saved: string[];
  open: string | null;
  problem: string;
  waiting: string[];
  rows: Row[];
  active: Cell | null;
  isActiveThere: boolean;
  focused: number;
}

const entered = (
  key: "name" | "weight",
  sound: (text: string) => boolean,
): Column<Row> => ({
  key,
  head: key,
  label: key,
  width: "1fr",
  align: key === "weight" ? "right" : "left",
  text: (row) => row[key],
  enter: (row, text) =>
    sound(text) ? { ...row, [key]: text } : `no ${key}: ${text}`,
});

const columns: Column<Row>[] = [
  entered("name", (text) => text.length > 0),
  entered("weight", (text) => /^\d+$/.test(text)),
  { key: "told", head: "told", label: "told", width: "1fr", text: () => "" },
];

export function sortedTexts(
  texts: string[],
  align: "left" | "right",
  isDown: boolean,
): string[] {
  const column = { ...entered("weight", () => true), align };
  const rows = texts.map((weight, at) => ({
    id: String(at),
    name: "",
    weight,
  }));
  return sortedBy(rows, column, isDown).map((row) => row.weight);
}

export function viewed(
  now: string[],
  seen: string[],
  order: string[],
): string[] {
  return inView(now, (id) => id, new Set(seen), order);
}

/** Weights pasted where only some of the rows are seen: all rows, as they are then. */
export function pastedInPart(
  ids: string[],
  seen: string[],
  cells: string[][],
): string[][] {
  const rows = ids.map((id) => ({ id, name: id, weight: "1" }));
  const drawn: Drawn<Row> = {
    rows: seen.flatMap((id) => rows.find((row) => row.id === id) ?? []),
    columns,
    idOf: (row) => row.id,
    nameOf: (row) => row.name,
    noun: "row",
    isPart: true,
    newRow: () => ({ id: "new-1", name: "new", weight: "1" }),
  };
  const active = { row: seen[0] ?? "", column: "weight" };
  const start = { ...emptyGrid<Row, number>(), active, anchor: active };
  const [asked] = reducedGrid(start, { type: "paste", cells, held: 0 }, drawn);
  const [, effects] = reducedGrid(
    asked,
    { type: "take pasted", made: [] },
    drawn,
  );
  const save = effects.find((effect) => effect.do === "save");
  const after = save?.do === "save" ? save.changed(rows) : [];
  return after.map((row) => [row.id, row.weight]);
}

export function worked(ids: string[], doings: Doing[]): Outcome {
  let rows: Row[] = ids.map((id) => ({ id, name: id, weight: "1" }));
  let state: GridState<Row, number> = emptyGrid();
  let waiting: { changed: (rows: Row[]) => Row[]; editor: Editor<number> }[] =
    [];
  let [made, focused] = [0, 0];
  const [lost, saved]: [string[], string[]] = [[], []];
  const [typed, replaced, givenUp]: [string[], string[], string[]] = [
    [],
    [],
    [],
  ];

  const drawn = (): Drawn<Row> => ({
    rows,
    columns,
    idOf: (row) => row.id,
    nameOf: (row) => row.name,
    noun: "row",
    newRow: () => ({ id: `new-${(made += 1)}`, name: "new", weight: "1" }),
    copyOf: (row) => ({ ...row, id: `copy-${(made += 1)}` }),
  });
  const dispatch = (event: GridEvent<number>): void => {
    const [next, effects] = reducedGrid(state, event, drawn());
    state = next;
    effects.forEach(run);
  };
  const setRows = (next: Row[]): void => {
    rows = next;
    dispatch({ type: "rows" });
  };
  const run = (effect: GridEffect<Row, number>): void => {
    if (effect.do === "save" && effect.editor)
      waiting.push({ changed: effect.changed, editor: effect.editor });
    else if (effect.do === "save") setRows(effect.changed(rows));
    else if (effect.do === "remove")
      setRows(rows.filter((row) => !effect.rows.includes(row)));
    else if (effect.do === "lost") lost.push(effect.text);
    else if (effect.do === "focus") focused += 1;
  };
  const answer = (refused: boolean): void => {
    const [first, ...rest] = waiting;
    if (!first) return;
    waiting = rest;
    const { editor } = first;
    if (refused)
      return dispatch({ type: "refused", editor, problem: "refused" });
    if (!rows.some((row) => row.id === editor.cell.row)) {
      lost.push(editor.text); // an edit of what is gone is asked about
      return;
    }
    saved.push(editor.text);
    setRows(first.changed(rows));
  };

  /** By hand: what is typed over, or given up, is no longer wanted. */
  const byHand = (event: GridEvent<number>): void => {
    const before = state.editor;
    const isTyped = before !== null && before.text !== before.began;
    if (event.type === "typed" && before) {
      if (isTyped) replaced.push(before.text);
      typed.push(event.text);
    }
    if (event.type === "give up" && isTyped) givenUp.push(before.text);
    dispatch(event);
    const now = state.editor;
    if (event.type === "open" && event.text && now && now !== before)
      typed.push(now.text);
  };
  for (const doing of doings) {
    if (doing.does === "grid") byHand(doing.event);
    else if (doing.does === "answer") answer(doing.refused);
    else if (doing.does === "put")
      setRows([
        ...rows.slice(0, doing.at),
        { id: doing.id, name: doing.id, weight: "2" },
        ...rows.slice(doing.at),
      ]);
    else if (doing.does === "take")
      setRows(rows.filter((_, at) => at !== doing.at));
    else
      setRows(
        rows.map((row, at) =>
          at === doing.at ? { ...row, weight: doing.weight } : row,
        ),
      );
  }
  return {
    typed,
    replaced,
    givenUp,
    lost,
    saved,
    open: state.editor?.text ?? null,
    problem: state.editor?.problem ?? "",
    waiting: waiting.map((one) => one.editor.text),
    rows,
    active: state.active,
    isActiveThere: !state.active || placesOf(state, drawn()) !== null,
    focused,
  };
}

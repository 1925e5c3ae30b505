"""Rows of numbers: in order, on their way out of the page, and what was changed when."""

from __future__ import annotations

import csv
import io
import unittest
from datetime import UTC, datetime, timedelta
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.web.page import PageTest
from tests.web.test_targets import body_of_demo

NUMBERS, RUNS, COLUMNS, FIGURES, OWN, PARTS = (
    "ui/table/numbers.ts",
    "sheets/history/runs.ts",
    "sheets/depth/columns.ts",
    "sheets/depth/figures.ts",
    "game/own.ts",
    "game/parts.ts",
)
text = st.text(st.characters(codec="utf-8", exclude_characters="\x00\ufeff"), max_size=12)
cells = st.none() | st.integers(-(10**6), 10**6) | st.floats(-1e6, 1e6, width=32) | text


class OfRows(PageTest):
    MODULES = (NUMBERS, RUNS, COLUMNS, FIGURES, OWN, PARTS)


class Out(OfRows):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.lists(cells, min_size=3, max_size=3), max_size=5))
    def test_a_file_is_read_by_whoever_reads_such_files(self, rows: list[list[Any]]) -> None:
        written = self.page.call(NUMBERS, "commaSeparated", {"heads": ["a", "b", "c"], "rows": rows})
        heads, *read = csv.reader(io.StringIO(written, newline=""))
        self.assertEqual((heads, len(read)), (["a", "b", "c"], len(rows)))
        for mine, row in zip(read, rows, strict=True):
            for cell, value in zip(mine, row, strict=True):
                if isinstance(value, str):
                    # What a spreadsheet would take for a formula is set off by a space.
                    self.assertIn(cell, (value, f" {value}"))
                    self.assertNotRegex(cell, r"^[=+@\t]|^-[^\d.]")
                else:
                    self.assertEqual(float(cell) if cell else None, value)

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.lists(cells, min_size=2, max_size=2), min_size=1, max_size=4))
    def test_on_the_clipboard_a_cell_is_one_cell(self, rows: list[list[Any]]) -> None:
        lines = self.page.call(NUMBERS, "tabbed", rows).split("\n")
        self.assertEqual([line.count("\t") for line in lines], [1] * len(rows))

    @settings(max_examples=25, deadline=None)
    @given(st.lists(cells, min_size=3, max_size=3))
    def test_any_three_cells_have_one_order(self, three: list[Any]) -> None:
        a, b, c = three
        order = lambda x, y: self.page.call(NUMBERS, "inOrder", x, y)  # noqa: E731
        self.assertEqual(order(a, a), 0)
        self.assertLessEqual(order(a, b) * order(b, a), 0)
        kinds = {type(one) in (int, float) for one in three if one is not None}
        if order(a, b) <= 0 and order(b, c) <= 0 and len(kinds) < 2:
            self.assertLessEqual(order(a, c), 0)

    def test_what_is_not_there_stands_last(self) -> None:
        self.assertEqual(self.page.call(NUMBERS, "inOrder", None, -5), 1)
        self.assertEqual(self.page.call(NUMBERS, "inOrder", 0, None), -1)
        self.assertEqual(self.page.call(NUMBERS, "inOrder", None, None), 0)
        self.assertLess(self.page.call(NUMBERS, "inOrder", "Line 9", "Line 10"), 0)


class Runs(OfRows):
    began = datetime(2031, 4, 5, 10, 0, tzinfo=UTC)

    def change(self, minutes: float, label: str = "weight of Eel catch", **more: Any) -> dict[str, Any]:
        at = (self.began + timedelta(minutes=minutes)).isoformat()
        usual = {"origin": "edit", "page": "p1", "mark": None, "things": ["table/eel-catch"]}
        return {"at": at, "label": label, **usual, **more}

    def many(self, *changes: dict[str, Any]) -> list[list[int]]:
        """How many there are in each run of each day; given from the first to the last."""
        days = self.page.call(RUNS, "byDay", list(reversed(changes)))
        return [[run["many"] for run in day["runs"]] for day in days]

    def test_alike_and_soon_is_one(self) -> None:
        self.assertEqual(self.many(*(self.change(at) for at in range(10))), [[10]])
        self.assertEqual(self.many(self.change(0), self.change(9.9), self.change(20)), [[1, 2]])

    def test_what_parts_them(self) -> None:
        for other in (
            self.change(1, label="name of Eel catch"),
            self.change(1, page="p2"),
            self.change(1, origin="undo"),
            self.change(1, things=["table/crab-meat"]),
        ):
            self.assertEqual(self.many(self.change(0), other, self.change(2)), [[1, 1, 1]])
        # A mark stands for the revision after its change: what comes later is not that.
        self.assertEqual(self.many(self.change(0), self.change(1, mark="v1"), self.change(2)), [[1, 2]])

    def test_by_day(self) -> None:
        self.assertEqual(self.many(self.change(0), self.change(24 * 60)), [[1], [1]])
        self.assertEqual(self.many(), [])


class Columns(OfRows):
    means = st.lists(st.sampled_from([0.0, 0.01, 0.5, 2.0]), min_size=4, max_size=4)

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.tuples(means, st.integers(0, 3)), min_size=1, max_size=6), st.integers(0, 3))
    def test_every_order(self, given_columns: list[tuple[list[float], int]], row: int) -> None:
        columns = [
            {"id": f"c{n}", "name": f"Item {9 - n}", "rung": rung, "means": means}
            for n, (means, rung) in enumerate(given_columns)
        ]
        orders = {
            "here": lambda one: -one["means"][row],
            "most": lambda one: -max(one["means"]),
            "first": lambda one: next((n for n, mean in enumerate(one["means"]) if mean > 0), 99),
            "tier": lambda one: -one["rung"],
            "name": lambda one: one["name"],
        }
        for order, key in orders.items():
            found = self.page.call(COLUMNS, "inOrder", columns, order, row)
            self.assertEqual([key(one) for one in found], sorted(map(key, columns)), order)
            self.assertEqual({one["id"] for one in found}, {one["id"] for one in columns})

    def test_a_figure_is_what_its_name_says(self) -> None:
        known = {"p_any": 0.02, "mean": 0.05, "cv": 7.5}
        told = {
            "per_100": 5.0,
            "one_in": 50.0,
            "chance": 2.0,
            "value": 0.6,
            "cv": 7.5,
            "hour": 18.0,
        }
        for figure, wanted in told.items():
            found = self.page.call(
                FIGURES, "figureOf", known, {"figure": figure, "perHour": 360, "value": 12}
            )
            self.assertAlmostEqual(found, wanted, msg=figure)
        never = {"p_any": 0, "mean": 0}
        self.assertIsNone(
            self.page.call(FIGURES, "figureOf", never, {"figure": "one_in", "perHour": 1, "value": 1})
        )

    def test_a_held_figure_wants_what_stands_there(self) -> None:
        thing = {"item": "lens", "tier": None}
        for figure, shown, wanted in (
            ("per_100", 5.0, 0.05),
            ("chance", 2.0, 0.02),
            ("one_in", 50, 50),
            ("hour", 18, 18),
        ):
            wish = self.page.call(FIGURES, "wishOf", figure, shown, thing)
            self.assertAlmostEqual(wish["wanted"], wanted, msg=figure)
        self.assertIsNone(self.page.call(FIGURES, "wishOf", "value", 3, thing))

    def test_the_warmest_is_the_most_and_of_waits_the_shortest(self) -> None:
        heat = lambda value, figure: self.page.call(FIGURES, "heatOf", value, figure, [2, 8])  # noqa: E731
        self.assertEqual([heat(8, "per_100"), heat(2, "per_100"), heat(0, "per_100")], [1, 0.25, 0])
        self.assertEqual([heat(2, "one_in"), heat(8, "one_in"), heat(None, "one_in")], [1, 0.25, 0])


class OwnCurves(OfRows):
    """A curve that is private to a place is copied with it, and goes with it."""

    def with_own(self, *entries: dict[str, Any]) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = self.page.call(OWN, "withOwnCurves", {"parts of": self.body()}, entries)
        return found

    def body(self) -> dict[str, Any]:
        body = body_of_demo()
        body["curves"] += [{"id": "own", "name": "Own", "private": True, "shape": "line", "points": [[1, 1]]}]
        self.first(body)["lines"][0]["curve"] = "own"
        return body

    def first(self, body: dict[str, Any]) -> dict[str, Any]:
        return next(one for one in body["tables"] if one["id"] == "eel-catch")

    def entry(self, body: dict[str, Any] | None, name: str = "eel-catch") -> dict[str, Any]:
        return {"kind": "table", "id": name, "body": body}

    def test_an_edit_of_the_place_keeps_it(self) -> None:
        table = self.first(self.body()) | {"name": "Other"}
        self.assertEqual(self.with_own(self.entry(table)), [self.entry(table)])

    def test_a_copy_gets_a_copy(self) -> None:
        table = self.first(self.body()) | {"id": "eel-two", "name": "Eel two"}
        curve, copy = self.with_own(self.entry(table, "eel-two"))
        self.assertEqual(
            (curve["kind"], curve["body"]["private"], curve["body"]["points"]), ("curve", True, [[1, 1]])
        )
        self.assertNotEqual(curve["id"], "own")
        self.assertEqual(copy["body"]["lines"][0]["curve"], curve["id"])

    def test_two_lines_never_share_one(self) -> None:
        table = self.first(self.body())
        twice = {**table, "lines": [table["lines"][0], {**table["lines"][0], "id": "z"}, *table["lines"][1:]]}
        curve, edited = self.with_own(self.entry(twice))
        self.assertEqual([line["curve"] for line in edited["body"]["lines"][:2]], ["own", curve["id"]])

    def test_it_goes_with_its_place(self) -> None:
        table = self.first(self.body())
        without = {**table, "lines": table["lines"][1:]}
        for entry in (self.entry(without), self.entry(None)):
            gone = {"kind": "curve", "id": "own", "body": None}
            self.assertEqual(self.with_own(entry), [entry, gone])

    def test_a_shared_curve_stays(self) -> None:
        body = body_of_demo()
        table = next(one for one in body["tables"] if any(line["curve"] for line in one["lines"]))
        entry = self.entry(None, table["id"])
        self.assertEqual(self.with_own(entry), [entry])


if __name__ == "__main__":
    unittest.main()
